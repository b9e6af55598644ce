import { percentEncode } from '../../../oauth1/encoding.js'
import type { Mistake, Way } from '../mistake.js'
import { smallEscapes } from '../spellings.js'

const way = (keyOf: (secret: string, consumerKey: string) => string, words: string): Way => ({
  change: () => ({ keyOf }),
  evidence: [['signing key', words]],
})

/** RFC 5849 section 3.4.2: the key ends in “&”, even where there is no token secret. */
export const ampersandLeftOut: Mistake = {
  code: 'ampersand_left_out',
  name: 'signing key without its “&”',
  family: 'key',
  sentence: 'The signing key lacks the “&” that follows the secret even without a token secret.',
  ours: null,
  theirs: 'Sign with the encoded secret followed by “&” (RFC 5849 section 3.4.2).',
  toTell: 'a secret with a character that must be encoded',
  ways: ({ held: { sharedSecret } }) => [
    way(percentEncode, 'the secret without “&” behind it'),
    ...(percentEncode(sharedSecret) === sharedSecret
      ? []
      : [way((secret) => secret, 'the secret as it is, without “&” behind it')]),
  ],
}

/** RFC 5849 section 3.4.2: both secrets are percent-encoded before they become the key. */
export const secretNotEncoded: Mistake = {
  code: 'secret_not_encoded',
  name: 'secret used without encoding it',
  family: 'key',
  sentence: 'The shared secret holds characters that must be percent-encoded in the signing key, and were not.',
  ours: 'Until the tool is fixed, agree on a secret of letters and digits only.',
  theirs: 'Percent-encode the shared secret before it becomes the key of the signature (RFC 5849 section 3.4.2).',
  ways: () => [way((secret) => `${secret}&`, 'the secret as it is, then “&”')],
}

/** The key of the HMAC was put together of the wrong parts. */
export const keyMadeOtherwise: Mistake = {
  code: 'key_made_otherwise',
  name: 'signing key put together otherwise',
  family: 'key',
  sentence: 'The key of the signature was put together otherwise than of the encoded secret and “&”.',
  ours: null,
  theirs:
    'Make the key of the encoded shared secret, “&”, and nothing behind it, for there is no token secret (RFC 5849 section 3.4.2).',
  ways: () => [
    way((secret, key) => `${percentEncode(key)}&${percentEncode(secret)}`, 'consumer key, “&”, secret'),
    way(
      (secret) => `${percentEncode(secret)}&${percentEncode(secret)}`,
      'the secret on both sides of “&”, as if it were the token secret, too',
    ),
    way((secret, key) => `${percentEncode(secret)}&${percentEncode(key)}`, 'secret, “&”, consumer key'),
    way((secret) => `&${percentEncode(secret)}`, '“&” before the secret'),
    way((secret) => `${percentEncode(secret)}%26`, '“&” percent-encoded'),
    way((secret) => percentEncode(`${percentEncode(secret)}&`), '“&” percent-encoded, and the secret twice'),
    way((secret) => `${percentEncode(secret)}&null`, '“null” behind the “&”'),
    way((secret) => `${percentEncode(secret)}&undefined`, '“undefined” behind the “&”'),
    way((secret) => `${percentEncode(secret)}&&`, 'two “&”'),
    way((secret) => `${percentEncode(secret)}& `, 'a space after the “&”'),
    way((secret) => `${percentEncode(secret)}&amp;`, '“&amp;” for “&”'),
    way((secret) => `${percentEncode(secret).replaceAll('%20', '+')}&`, 'spaces of the secret written as “+”'),
    way((secret) => `${encodeURIComponent(secret.toWellFormed())}&`, '! ’ ( ) * of the secret left unescaped'),
    way((secret) => `${smallEscapes(percentEncode(secret))}&`, 'escapes of the secret in small letters'),
    way((secret, key) => `${key}${secret}`, 'consumer key and secret in one'),
  ],
}
