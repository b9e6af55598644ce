import { hmacBase64, sameDigest } from '../../oauth1/digest.js'
import { percentEncode } from '../../oauth1/encoding.js'
import { concluded, type Cause, type Diagnosis } from '../cause.js'
import { ampersandLeftOut } from './ampersand-left-out.js'
import { baseParts, baseString } from './base.js'
import { changedAfterSigning } from './changed-after-signing.js'
import { doubleEncoding } from './double-encoding.js'
import { emptyLeftOut } from './empty-left-out.js'
import type { SignatureCause, SignatureFacts, Variant } from './facts.js'
import { keyAndSecretSwapped } from './key-and-secret-swapped.js'
import { otherCharset } from './other-charset.js'
import { otherDigest } from './other-digest.js'
import { otherHost } from './other-host.js'
import { otherScheme } from './other-scheme.js'
import { pathDecoded } from './path-decoded.js'
import { plusForBlank } from './plus-for-blank.js'
import { previousSecret } from './previous-secret.js'
import { queryLeftOut } from './query-left-out.js'
import { queryTwice } from './query-twice.js'
import { secretHasBlanks } from './secret-has-blanks.js'
import { secretNotEncoded } from './secret-not-encoded.js'
import { secretOfAnotherRegistration } from './secret-of-another-registration.js'
import { trailingSlash } from './trailing-slash.js'

const OF_SECRETS = [
  secretHasBlanks,
  keyAndSecretSwapped,
  secretOfAnotherRegistration,
  previousSecret,
  secretNotEncoded,
  ampersandLeftOut,
]
const OF_MESSAGES = [
  otherScheme,
  otherHost,
  trailingSlash,
  queryLeftOut,
  queryTwice,
  pathDecoded,
  plusForBlank,
  doubleEncoding,
  otherCharset,
  emptyLeftOut,
  otherDigest,
  changedAfterSigning,
]
export const SIGNATURE_CAUSES: readonly SignatureCause[] = [...OF_SECRETS, ...OF_MESSAGES]

/** Two mistakes at once are looked for among those that are common, so that a hostile message costs no more than an honest one. */
const PAIRED_SECRETS = [secretHasBlanks, keyAndSecretSwapped, previousSecret]
const PAIRED_MESSAGES = [otherScheme, otherHost, trailingSlash, queryLeftOut, plusForBlank, otherDigest]
const MOST_OF_EACH = 3

/**
 * Finds the mistake by which a message would have been signed as it is, by signing it anew with each mistake that is known (RFC 5849 section 3.4): first one
 * mistake alone, then one of the secret together with one of the message. What matches is proof, for nobody hits an HMAC by chance.
 * @throws RangeError when the address is not an absolute http(s) one
 */
export function diagnoseSignature(facts: SignatureFacts): Diagnosis {
  const baseOf = (variant: Variant) => variant.baseString ?? baseString(baseParts(variant.request ?? facts.request))
  const right = baseString(baseParts(facts.request))
  const keyOf = (variant: Variant) => variant.macKey ?? `${percentEncode(variant.secret ?? facts.held.sharedSecret)}&`
  const matches = (key: string, base: string, method = facts.signatureMethod) =>
    sameDigest(hmacBase64(method, key, base), facts.signature)
  const singly: Cause[] = []
  const ruledOut: string[] = []
  for (const cause of SIGNATURE_CAUSES) {
    const found = cause
      .variants(facts)
      .find((variant) =>
        matches(
          keyOf(variant),
          variant.request || variant.baseString !== undefined ? baseOf(variant) : right,
          variant.signatureMethod,
        ),
      )
    if (found) singly.push(toCause(cause, found))
    else ruledOut.push(cause.name)
  }
  const causes = singly.length > 0 ? singly : pairs(facts, keyOf, baseOf, matches)
  return concluded(
    causes,
    ruledOut,
    'None of the mistakes that are known makes the signature match: most likely the two ends hold different secrets.',
  )
}

function pairs(
  facts: SignatureFacts,
  keyOf: (variant: Variant) => string,
  baseOf: (variant: Variant) => string,
  matches: (key: string, base: string, method?: SignatureFacts['signatureMethod']) => boolean,
): Cause[] {
  const messages = PAIRED_MESSAGES.flatMap((cause) =>
    cause
      .variants(facts)
      .slice(0, MOST_OF_EACH)
      .map((variant) => ({ cause, variant, base: baseOf(variant) })),
  )
  for (const ofSecret of PAIRED_SECRETS)
    for (const secret of ofSecret.variants(facts).slice(0, MOST_OF_EACH))
      for (const { cause, variant, base } of messages)
        if (matches(keyOf(secret), base, variant.signatureMethod))
          return [both(toCause(ofSecret, secret), toCause(cause, variant))]
  return []
}

function toCause({ code, sentence, ours, theirs }: SignatureCause, { evidence, at }: Variant): Cause {
  return {
    code,
    sentence,
    evidence,
    ours: at === 'theirs' ? null : ours,
    theirs: at === 'ours' ? null : theirs,
  }
}

/** Two mistakes that explain it together only. */
function both(a: Cause, b: Cause): Cause {
  const joined = (one: string | null, other: string | null) =>
    [one, other].filter((text) => text !== null).join(' ') || null
  return {
    code: `${a.code}+${b.code}`,
    sentence: `Two mistakes at once. ${a.sentence} ${b.sentence}`,
    evidence: [...a.evidence, ...b.evidence],
    ours: joined(a.ours, b.ours),
    theirs: joined(a.theirs, b.theirs),
  }
}
