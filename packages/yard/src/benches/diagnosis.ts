import { diagnoseSignature } from '@bathyscribe/core/diagnosis'
import { signatureOf } from '@bathyscribe/core/oauth1'
import type { Result, Setting } from './bench.js'

// As many as a launch of ours has.
const FIELDS = 30
const OTHERS = 40
const LIMIT_MS = 5

/** How long all causes together take for a signature that is none of ours: the median of core’s time for a launch-sized message that no cause explains (the longest way), and for one that one does */
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
  const none = median(() => diagnoseSignature(facts('nobody-knows-it')), 'none')
  const found = median(() => diagnoseSignature(facts(secretOf(OTHERS - 1))), 'proven')
  say(
    `  diagnosis: ${none.toFixed(2)} ms when nothing fits, ${found.toFixed(2)} ms when one of ${OTHERS} other secrets does`,
  )
  return {
    name: 'diagnosis',
    ratio: LIMIT_MS / none,
    floor: 1,
    detail: { noneMs: round(none), foundMs: round(found), limitMs: LIMIT_MS },
  }
}

function median(run: () => { certainty: string }, certainty: string): number {
  const times = Array.from({ length: 200 }, () => {
    const started = performance.now()
    if (run().certainty !== certainty) throw new Error('The diagnosis is not the one that was expected.')
    return performance.now() - started
  })
  return times.sort((a, b) => a - b)[100]!
}

function round(ms: number): number {
  return Math.round(ms * 100) / 100
}
