import { diagnoseSignature, type SignatureFacts } from '@bathyscribe/core/diagnosis'
import { signatureOf } from '@bathyscribe/core/oauth1'
import { FAULTS } from '../faulty/faults.js'
import { factsOf, MESSAGES } from '../faulty/messages.js'
import { signatureBy } from '../faulty/signer.js'
import type { Result, Setting } from './bench.js'

// As many as a launch of ours has.
const FIELDS = 30
const OTHERS = 40
/** So long at most where something fits, in the middle of many; and where nothing does, when all pairs are gone through. */
const FOUND_MS = 5
const NONE_MS = 50

/**
 * How long the search takes for a signature that is none of ours: over all faults of the table, and for a message of a launch's size that nothing explains, which is the longest
 * way; the median of each.
 */
export function diagnosisOf({ say }: Setting): Result {
  const parameters: [string, string][] = [
    ...Array.from({ length: FIELDS }, (_, i): [string, string] => [
      `custom_field_${i}`,
      `value ${i} of the practice course`,
    ]),
    ['oauth_consumer_key', 'skerrow-knots'],
    ['oauth_nonce', 'of-the-benchmark'],
    ['oauth_signature_method', 'HMAC-SHA1'],
    ['oauth_timestamp', '1790000000'],
    ['oauth_version', '1.0'],
  ]
  const request = { method: 'POST', url: 'https://lti.skerrow.example/lti/outcomes?unit=3', parameters }
  const secretOf = (i: number) => `secret-number-${i}-of-forty`
  const facts = (secret: string) => ({
    request,
    signature: signatureOf(request, 'HMAC-SHA1', secret),
    signatureMethod: 'HMAC-SHA1' as const,
    held: { label: 'Knotwork Drills', consumerKey: 'skerrow-knots', sharedSecret: 'halyard-3-bowline' },
    previous: ['halyard-1', 'halyard-2'],
    others: Array.from({ length: OTHERS }, (_, i) => ({
      label: `Tool ${i}`,
      consumerKey: `k${i}`,
      sharedSecret: secretOf(i),
    })),
    hosts: ['127.0.0.1:8080', 'localhost:8080', 'localhost'],
  })
  const none = median(Array.from({ length: 60 }, () => timed(facts('nobody-knows-it'), 'none')))
  const overTable = () =>
    FAULTS.flatMap((fault) =>
      MESSAGES.flatMap((sent) => {
        const signature = signatureBy(sent, fault.doing)
        return signature === signatureBy(sent) ? [] : [timed(factsOf(sent, signature))]
      }),
    )
  // What runs for the first time is compiled on the way.
  overTable()
  const found = median(overTable())
  say(`  diagnosis: ${none.toFixed(2)} ms when nothing fits, ${found.toFixed(2)} ms for a fault of the table`)
  return {
    name: 'diagnosis',
    ratio: Math.min(FOUND_MS / found, NONE_MS / none),
    floor: 1,
    detail: { noneMs: round(none), foundMs: round(found), foundLimitMs: FOUND_MS, noneLimitMs: NONE_MS },
  }
}

function timed(facts: SignatureFacts, certainty?: string): number {
  const started = performance.now()
  const found = diagnoseSignature(facts)
  if (certainty === undefined ? found.causes.length === 0 : found.certainty !== certainty)
    throw new Error('The diagnosis is not the one that was expected.')
  return performance.now() - started
}

function median(times: number[]): number {
  return times.sort((a, b) => a - b)[times.length >> 1]!
}

function round(ms: number): number {
  return Math.round(ms * 100) / 100
}
