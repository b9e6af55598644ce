import {
  diagnoseSignature,
  diagnoseToken,
  kindOfToken,
  type Diagnosis,
  type TokenFacts,
  type VerifyRsa,
} from '@bathyscribe/core/diagnosis'
import { readOAuthParameters, verifyRequest } from '@bathyscribe/core/oauth1'
import { Problem } from '@bathyscribe/core/result'
import type { PublicKey } from '@bathyscribe/core/lti13'
import fc from 'fast-check'
import { createPublicKey, generateKeyPairSync, sign, verify } from 'node:crypto'
import { factsOfHonest, honestMessage, honestToken, randomSignature, type Honest } from './honest.js'
import { signatureBy } from './signer.js'

/** Messages that nothing may be said of, and what was said all the same. */
export interface Heard {
  honest: number
  tokens: number
  random: number
  /** Each as a sentence with the message that it was said of; at most ten. */
  said: string[]
}
const MOST_KEPT = 10

/**
 * Diagnoses messages with nothing wrong, and messages with a signature drawn by lot.
 * @param count of each; of tokens as many
 * @param seed the same seed makes the same messages
 */
export function listen(count: number, seed: number): Heard {
  const said: string[] = []
  const note = (what: string, of: unknown) => {
    if (said.length < MOST_KEPT) said.push(`${what}: ${JSON.stringify(of)}`)
  }
  const silent = (found: Diagnosis, of: unknown) => {
    if (found.certainty !== 'none' || found.causes.length > 0) note(`${found.certainty}, ${found.sentence}`, of)
  }
  for (const sent of fc.sample(honestMessage, { numRuns: count, seed })) {
    if (!isTaken(sent)) note('refused', sent)
    silent(diagnoseSignature(factsOfHonest(sent)), sent)
  }
  const drawn = fc.sample(fc.tuple(honestMessage, randomSignature), { numRuns: count, seed: seed + 1 })
  for (const [sent, signature] of drawn) silent(diagnoseSignature(factsOfHonest(sent, signature)), { sent, signature })
  const keys = twoKeys()
  for (const facts of fc.sample(honestToken, { numRuns: count, seed: seed + 2 })) {
    if (kindOfToken(facts.claims) !== facts.kind) note('taken for another kind', facts)
    silent(diagnoseToken(keys.signed(facts), verifyRs256), facts)
  }
  return { honest: count, random: count, tokens: count, said }
}

/** Whether it verifies at all: of a message that does not, silence would say nothing. */
function isTaken(sent: Honest): boolean {
  const parameters = sent.fields.map(([name, value]): [string, string] => [name, value])
  const oauth = readOAuthParameters([...parameters, ['oauth_signature', signatureBy(sent)]])
  if (oauth instanceof Problem) return false
  const problem = verifyRequest({ method: sent.method, url: sent.url, parameters }, oauth, {
    sharedSecret: sent.sharedSecret,
    signatureMethod: oauth.signatureMethod,
    nowSeconds: oauth.timestampSeconds,
    windowSeconds: 1,
  })
  return problem === undefined
}

/** Keys by the names that the headers of honest tokens have. */
function twoKeys() {
  const pairs = ['one', 'two'].map((kid) => ({ kid, ...generateKeyPairSync('rsa', { modulusLength: 2048 }) }))
  const now = pairs.map(({ kid, publicKey }) => ({ ...publicKey.export({ format: 'jwk' }), kid }) as PublicKey)
  return {
    signed(facts: TokenFacts): TokenFacts {
      const parts = [facts.header, facts.claims].map((one) => Buffer.from(JSON.stringify(one)).toString('base64url'))
      const { privateKey } = pairs.find(({ kid }) => kid === facts.header['kid'])!
      const signature = sign('sha256', Buffer.from(parts.join('.')), privateKey).toString('base64url')
      return {
        ...facts,
        token: [...parts, signature].join('.'),
        keys: { owner: 'Tool', now, before: [], readAt: null },
      }
    },
  }
}

const verifyRs256: VerifyRsa = (algorithm, data, signature, { kty, n, e }) =>
  algorithm === 'RS256' && verify('sha256', data, createPublicKey({ key: { kty, n, e }, format: 'jwk' }), signature)
