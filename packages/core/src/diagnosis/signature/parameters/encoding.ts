import { percentEncode } from '../../../oauth1/encoding.js'
import { percentDecoded } from '../../../text/index.js'
import type { Mistake, Way } from '../mistake.js'
import type { Signing } from '../signing.js'
import { smallEscapes } from '../spellings.js'

const charactersOf = new WeakMap<Signing, string>()

/** Each character of a message once. */
function charactersIn(signing: Signing): string {
  const before = charactersOf.get(signing)
  if (before !== undefined) return before
  const characters = [...new Set([...signing.query, ...signing.fields].flat().join(''))].join('')
  charactersOf.set(signing, characters)
  return characters
}

/** Ways to encode otherwise, of those that encode one of the characters of this message otherwise. */
function encoded(
  signing: Signing,
  encodings: readonly (readonly [encode: (text: string) => string, words: string])[],
): Way[] {
  const characters = charactersIn(signing)
  const right = percentEncode(characters)
  return encodings.flatMap(([encode, words]): Way[] =>
    encode(characters) === right ? [] : [{ change: () => ({ encode }), evidence: [['names and values', words]] }],
  )
}

/** RFC 5849 section 3.6: a blank is %20; form encoding writes “+”. */
export const plusForBlank: Mistake = {
  code: 'plus_for_blank',
  name: '“+” in place of “%20”',
  family: 'encoding',
  sentence: 'Spaces were signed as “+”, as forms write them, instead of “%20”.',
  ours: null,
  theirs: 'Encode a space as %20 for the signature (RFC 5849 section 3.6).',
  toTell: 'a value with one of ! ’ ( ) * ~ in it',
  ways: (_, right) =>
    parametersHaveBlanks(right)
      ? [
          ...encoded(right, [
            [(text) => percentEncode(text).replaceAll('%20', '+'), 'spaces as “+”'],
            [
              (text) => percentEncode(text).replaceAll('%2A', '*').replaceAll('~', '%7E').replaceAll('%20', '+'),
              'as forms are encoded: spaces as “+”, “*” as it is, “~” escaped',
            ],
            [
              (text) => encodeURIComponent(text.toWellFormed()).replaceAll('%20', '+'),
              'spaces as “+”, and ! ’ ( ) * as they are',
            ],
            [
              (text) => percentEncode(text).replaceAll('~', '%7E').replaceAll('%20', '+'),
              'spaces as “+”, and “~” escaped',
            ],
            [
              (text) =>
                smallEscapes(percentEncode(text).replaceAll('%2A', '*').replaceAll('~', '%7E')).replaceAll('%20', '+'),
              'as forms are encoded, escapes in small letters',
            ],
          ]),
          {
            change: ({ wrapParameters }: Signing) => ({
              wrapParameters: (text: string) => wrapParameters(text).replaceAll('%2520', '+'),
            }),
            evidence: [['spaces', 'as “+” in the base string itself']],
          },
        ]
      : [],
}

function parametersHaveBlanks({ query, fields }: Signing): boolean {
  return [...query, ...fields].some(([name, value]) => name.includes(' ') || value.includes(' '))
}

/** What a language's own function for addresses leaves as it is, or escapes for no reason. */
export const marksEncodedOtherwise: Mistake = {
  code: 'marks_encoded_otherwise',
  name: 'marks encoded otherwise than RFC 3986 has it',
  family: 'encoding',
  givesWay: true,
  sentence:
    'Marks in names or values were encoded otherwise than they must be: all but letters, digits and - . _ ~ is escaped.',
  ours: null,
  theirs:
    'Escape all but A–Z, a–z, 0–9 and - . _ ~ (RFC 5849 section 3.6); a language’s own function for addresses often leaves more, or escapes “~”.',
  toTell: 'a value with other marks in it',
  ways: (_, right) =>
    encoded(right, [
      [(text) => encodeURIComponent(text.toWellFormed()), '! ’ ( ) * as they are'],
      [(text) => percentEncode(text).replaceAll('~', '%7E'), '“~” escaped'],
      [(text) => percentEncode(text).replaceAll('%2A', '*'), '“*” as it is'],
      [(text) => percentEncode(text).replaceAll('%2F', '/'), '“/” as it is'],
      [
        (text) => encodeURIComponent(text.toWellFormed()).replaceAll('~', '%7E'),
        '! ’ ( ) * as they are, and “~” escaped',
      ],
      [(text) => encodeURI(text.toWellFormed()), 'as a whole address is encoded: ; / ? : @ & = + $ , # as they are'],
      [(text) => percentEncode(text).replaceAll('%3A', ':'), '“:” as it is'],
      [(text) => percentEncode(text).replaceAll('%3A', ':').replaceAll('%2F', '/'), '“:” and “/” as they are'],
      [(text) => percentEncode(text).replaceAll('%40', '@'), '“@” as it is'],
      [(text) => percentEncode(text).replaceAll('%2C', ','), '“,” as it is'],
      [(text) => percentEncode(text).replaceAll('%21', '!'), '“!” as it is'],
      [(text) => percentEncode(text).replaceAll('%27', "'"), '“’” as it is'],
      [(text) => percentEncode(text).replaceAll('%28', '(').replaceAll('%29', ')'), '“(” and “)” as they are'],
      [
        (text) =>
          percentEncode(text)
            .replaceAll('%28', '(')
            .replaceAll('%29', ')')
            .replaceAll('%2A', '*')
            .replaceAll('%21', '!'),
        '! ( ) * as they are',
      ],
      [(text) => percentEncode(text).replaceAll('.', '%2E'), '“.” escaped'],
      [(text) => percentEncode(text).replaceAll('-', '%2D'), '“-” escaped'],
      [(text) => percentEncode(text).replaceAll('_', '%5F'), '“_” escaped'],
      [
        (text) =>
          percentEncode(text)
            .replaceAll('.', '%2E')
            .replaceAll('-', '%2D')
            .replaceAll('_', '%5F')
            .replaceAll('~', '%7E'),
        '- . _ ~ escaped',
      ],
    ]),
}

export const escapesInSmallLetters: Mistake = {
  code: 'escapes_in_small_letters',
  name: 'escapes in small letters',
  family: 'encoding',
  givesWay: true,
  sentence: 'Escapes were written in small letters, as %2f, in place of capitals.',
  ours: null,
  theirs: 'Write escapes in capitals: %2F and not %2f (RFC 5849 section 3.6).',
  ways: (_, right) => [
    ...encoded(right, [
      [(text) => smallEscapes(percentEncode(text)), 'escapes in small letters'],
      [(text) => smallEscapes(percentEncode(text)).replaceAll('%20', '+'), 'escapes in small letters, spaces as “+”'],
      [
        (text) => smallEscapes(encodeURIComponent(text.toWellFormed())),
        'escapes in small letters, ! ’ ( ) * as they are',
      ],
    ]),
    ...[
      { escapes: 'in the whole base string', inside: true },
      { escapes: 'of the base string’s own parts', inside: false },
    ].map(({ escapes, inside }): Way => ({
      change: ({ encode }) => ({
        ...(inside && { encode: (text: string) => smallEscapes(encode(text)) }),
        wrapAddress: (text: string) => smallEscapes(percentEncode(text)),
        wrapParameters: (text: string) => smallEscapes(percentEncode(text)),
      }),
      evidence: [['escapes in small letters', escapes]],
    })),
  ],
}

export const doubleEncoding: Mistake = {
  code: 'double_encoding',
  name: 'encoded once too often or too little',
  family: 'encoding',
  sentence: 'The parameters were percent-encoded once too often, or once too little, before they were signed.',
  ours: null,
  theirs:
    'Encode each name and value once, then the whole of them once more as a part of the base string (RFC 5849 section 3.4.1).',
  ways: (_, right) => [
    ...encoded(right, [
      [(text) => percentEncode(percentEncode(text)), 'encoded twice'],
      [(text) => text, 'not encoded before the whole was'],
      [(text) => percentEncode(percentEncode(text).replaceAll('%20', '+')), 'encoded as a form, then once more'],
    ]),
    {
      change: () => ({ encode: (text) => percentEncode(percentDecoded(text)) }),
      evidence: [['names and values', 'decoded before they were encoded']],
    },
    { change: () => ({ wrapParameters: (text) => text }), evidence: [['parameters', 'not encoded as a whole']] },
    {
      change: () => ({ wrapParameters: (text) => percentEncode(percentEncode(text)) }),
      evidence: [['parameters', 'encoded twice as a whole']],
    },
    {
      change: () => ({ encode: (text) => text, wrapParameters: (text) => text }),
      evidence: [['parameters', 'not encoded at all']],
    },
    {
      change: () => ({ wrapParameters: (text) => text, wrapAddress: (text) => text }),
      evidence: [['base string', 'not encoded in its parts']],
    },
    {
      change: () => ({ wrapParameters: (text) => percentEncode(text).replaceAll('%25', '%') }),
      evidence: [['values', 'encoded once only']],
    },
    {
      change: () => ({ wrapParameters: (text) => text.replaceAll('&', '%26').replaceAll('=', '%3D') }),
      evidence: [['parameters', 'only “&” and “=” encoded as a whole']],
    },
  ],
}
