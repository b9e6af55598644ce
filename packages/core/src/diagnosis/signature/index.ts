import { HASH_OF } from '../../oauth1/digest.js'
import { percentEncode } from '../../oauth1/encoding.js'
import { concluded, together, type Cause, type Diagnosis, type Found } from '../cause.js'
import { macCommand } from '../letter/commands.js'
import { Proof } from '../proof.js'
import { addressEncoding } from './address/address-encoding.js'
import { addressInPart, moreInAddress } from './address/more-in-address.js'
import { otherHost } from './address/other-host.js'
import { otherMethod } from './address/other-method.js'
import { otherScheme } from './address/other-scheme.js'
import { pathDecoded } from './address/path-decoded.js'
import { pathRewritten } from './address/path-rewritten.js'
import { trailingSlash } from './address/trailing-slash.js'
import type { BaseStringFacts, SignatureFacts } from './facts.js'
import type { Mistake } from './mistake.js'
import { doubleEncoding, escapesInSmallLetters, marksEncodedOtherwise, plusForBlank } from './parameters/encoding.js'
import {
  changedAfterSigning,
  emptyLeftOut,
  groupLeftOut,
  oauthFieldsDiffer,
  repeatedOnce,
} from './parameters/fields.js'
import { otherOrder } from './parameters/order.js'
import { queryInAddress, queryLeftOut, queryReadOtherwise, queryTwice } from './parameters/query.js'
import { htmlEscaped, otherCharset, otherLineEnds, otherNormalForm } from './parameters/text.js'
import {
  baseStringTarget,
  search,
  signatureTarget,
  type Made,
  type Match,
  type OfSignature,
  type Searched,
} from './search.js'
import { anotherForSecret } from './secret/another-for-secret.js'
import { keyAndSecretSwapped } from './secret/key-and-secret-swapped.js'
import { ampersandLeftOut, keyMadeOtherwise, secretNotEncoded } from './secret/key-made-otherwise.js'
import { previousSecret } from './secret/previous-secret.js'
import { secretConverted } from './secret/secret-converted.js'
import { secretCut } from './secret/secret-cut.js'
import { secretHasBlanks } from './secret/secret-has-blanks.js'
import { secretHasMarks } from './secret/secret-has-marks.js'
import { secretInOtherLetters } from './secret/secret-in-other-letters.js'
import { secretMistyped } from './secret/secret-mistyped.js'
import { secretOfAnotherRegistration } from './secret/secret-of-another-registration.js'

/** All mistakes that are looked for, the likeliest first: in this order they are tried, alone and together, and what comes early is found at little cost. */
export const MISTAKES: readonly Mistake[] = [
  ...[previousSecret, keyAndSecretSwapped, secretNotEncoded, ampersandLeftOut, otherScheme, trailingSlash, otherMethod],
  ...[otherHost, secretHasBlanks, secretOfAnotherRegistration, queryInAddress, queryLeftOut, queryTwice, emptyLeftOut],
  ...[plusForBlank, keyMadeOtherwise, secretCut, secretInOtherLetters, secretHasMarks, secretConverted],
  ...[anotherForSecret, pathRewritten, pathDecoded, moreInAddress, addressInPart, addressEncoding, changedAfterSigning],
  ...[marksEncodedOtherwise, queryReadOtherwise, groupLeftOut, oauthFieldsDiffer, repeatedOnce, otherOrder],
  ...[escapesInSmallLetters, doubleEncoding, otherCharset, otherLineEnds, htmlEscaped, otherNormalForm, secretMistyped],
]

const HASHES = { md5: 'MD5', sha1: 'HMAC-SHA1', sha256: 'HMAC-SHA256', sha384: 'SHA-384', sha512: 'SHA-512' } as const

/**
 * Finds the mistakes by which a message would have been signed as it is, by signing it anew with each that is known (RFC 5849 section 3.4). What matches is proof, for nobody
 * hits an HMAC by chance; what matches by nothing is told as that, and no more.
 * @throws RangeError when the address is not an absolute http(s) one
 */
export function diagnoseSignature(facts: SignatureFacts): Diagnosis {
  const plain = signedInPlain(facts)
  if (plain) return concluded([plain], [], '')
  const target = signatureTarget(facts.signature)
  if (!target.isPossible) return concluded([], [], noSignature(facts.signature))
  const { matches, tried, ways, base } = search(facts, MISTAKES, target)
  if (matches.some((match) => isRight(facts, match))) return concluded([], [], RIGHT)
  return toldOf(
    { matches, tried },
    (match) => toFound(facts, match, base),
    `None of ${ways} ways to sign this message otherwise comes to its signature. What differs is none of the mistakes that were tried, nor a likely pair of them.`,
  )
}

/** Finds by which mistakes the other end came to the base string that it shows; `none` for one that is as it must be, too. @throws RangeError as above */
export function diagnoseBaseString(facts: BaseStringFacts): Diagnosis {
  const { matches, tried } = search(facts, MISTAKES, baseStringTarget(facts.theirs))
  if (matches.some(({ made }) => made.length === 0)) return concluded([], [], RIGHT_BASE_STRING)
  return toldOf(
    { matches, tried },
    ({ made, hit: { proof } }) => ({ ...together(made.map(toCause)), proof }),
    'No known mistake, alone or with another, comes to this base string.',
  )
}

/** @param nothing what is said when nothing matched */
function toldOf<Hit>(
  { matches, tried }: Pick<Searched<Hit>, 'matches' | 'tried'>,
  asFound: (match: Match<Hit>) => Found,
  nothing: string,
): Diagnosis {
  return concluded(
    matches.map(asFound),
    tried.map(({ name }) => name),
    nothing,
    matches.flatMap(({ made }) => made.flatMap(({ mistake }) => mistake.toTell ?? [])),
  )
}

const RIGHT_BASE_STRING =
  'The base string is exactly right: if the signature still differs, it was made with another key or another hash.'

const noSignature = ({ length }: string) =>
  `What was sent as signature has ${length} characters and is none in any form that is known: it is base64 of the 20 bytes of SHA-1, or of the 32 of SHA-256.`

/** By the method PLAINTEXT (RFC 5849 section 3.4.4), which is taken by nobody here. */
function signedInPlain({ signature, held: { sharedSecret } }: SignatureFacts): Found | undefined {
  const key = percentEncode(sharedSecret)
  const plain = [`${key}&`, percentEncode(`${key}&`), key, sharedSecret].find((one) => one === signature)
  return plain === undefined
    ? undefined
    : {
        code: 'signed_in_plain',
        sentence: 'The shared secret itself was sent in place of a signature: whoever saw the message has it now.',
        evidence: [['sent as signature', 'the shared secret']],
        ours: 'Change the shared secret: it crossed the wire.',
        theirs: 'Sign by HMAC-SHA1 or HMAC-SHA256, never by PLAINTEXT (RFC 5849 section 3.4.2).',
        proof: Proof.byComparing(signature, plain),
      }
}

const RIGHT =
  'The signature is right for this message and the secret that is held now: secret or address were changed after it came, or it was refused for something else.'

function isRight({ signatureMethod }: SignatureFacts, { made, hit: { hash, written } }: Match<OfSignature>): boolean {
  return made.length === 0 && HASHES[hash] === signatureMethod && written.forms.length === 0
}

function toFound(facts: SignatureFacts, match: Match<OfSignature>, right: string): Found {
  const { made, hit } = match
  const { hash, written, proof } = hit
  const causes = made.map(toCause)
  if (HASHES[hash] !== facts.signatureMethod) causes.push(otherDigest(facts, HASHES[hash]))
  if (written.forms.length > 0) causes.push(signatureForm(written.forms))
  return { ...together(causes), reproduce: reproductions(facts, match, right), proof }
}

/** Keys of the HMAC that a shell can write by the variables SECRET and KEY. */
const KEYS: Readonly<Record<string, string>> = { ampersand_left_out: '$SECRET', key_and_secret_swapped: '$KEY&' }

/** The two ways to sign, side by side; where it is the secret that differs, the one by which they sign shows it. */
function reproductions(
  { signatureMethod }: SignatureFacts,
  { made, hit: { hash }, base, isKeyOther }: Match<OfSignature>,
  right: string,
) {
  const must = macCommand('as_it_must_be', HASH_OF[signatureMethod], right)
  const key = made.map(({ mistake }) => KEYS[mistake.code]).find((one) => one !== undefined)
  if (!isKeyOther || key !== undefined) return [...must, ...macCommand('as_it_was_made', hash, base, key)]
  return macCommand('as_you_sign', hash, base)
}

function toCause({ mistake: { code, sentence, ours, theirs }, way: { evidence, at } }: Made): Cause {
  return { code, sentence, evidence, ours: at === 'theirs' ? null : ours, theirs: at === 'ours' ? null : theirs }
}

function otherDigest({ signatureMethod }: SignatureFacts, used: string): Cause {
  return {
    code: 'other_digest',
    sentence: 'The signature was computed with another hash than the one that the message names.',
    evidence: [
      ['named', signatureMethod],
      ['used', used],
    ],
    ours: 'Agree on one signature method with the tool’s end, and set it in the registration.',
    theirs: 'Name the method that is used in oauth_signature_method.',
  }
}

function signatureForm(forms: readonly string[]): Cause {
  return {
    code: 'signature_form',
    sentence: 'The signature is right, but not written in base64 as it must be.',
    evidence: [['written', forms.join(', ')]],
    ours: null,
    theirs:
      'Write the signature in base64, whole, and percent-encode it once where it is sent (RFC 5849 section 3.4.2).',
  }
}
