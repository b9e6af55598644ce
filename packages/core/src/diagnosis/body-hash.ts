import { bodyHash, sameDigest, SIGNATURE_METHODS, type SignatureMethod } from '../oauth1/digest.js'
import { cutEnd } from '../text/index.js'
import { rewritten } from './rewritten-xml.js'
import { concluded, type Cause, type Diagnosis } from './cause.js'

const utf8 = new TextEncoder()

interface OtherBody {
  code: string
  name: string
  sentence: string
  bodies: (text: string) => string[]
}

/** Of a body that was changed between hashing and sending: the forms it may have had before. */
const OTHER_BODIES: readonly OtherBody[] = [
  {
    code: 'body_line_ends',
    name: 'other line ends or blanks at the ends',
    sentence: 'The body was hashed with other line ends, or with other blanks at its ends, than it was sent with.',
    bodies: (text) => {
      const lines = text.replace(/\r\n/g, '\n')
      return [lines, lines.replace(/\n/g, '\r\n')]
        .flatMap((one) => [one, one.trim(), `${one.trim()}\n`, `${one.trim()}\r\n`])
        .concat(text.replace(/^\ufeff/, ''), `\ufeff${text}`)
    },
  },
  {
    code: 'body_reserialised',
    name: 'the XML written anew',
    sentence:
      'The body was written anew after it was hashed: its declaration, its indentation or its empty elements differ.',
    bodies: (text) => {
      const bare = withoutDeclaration(text)
      return [
        bare,
        ...[
          '<?xml version="1.0" encoding="UTF-8"?>',
          '<?xml version="1.0" encoding="utf-8"?>',
          '<?xml version="1.0"?>',
        ].flatMap((head) => [`${head}${bare}`, `${head}\n${bare}`]),
        ...[text, bare].map((one) => rewritten(one, { between: '' })),
        ...(['/>', ' />'] as const).map((empty) => rewritten(text, { empty })),
        rewritten(text, { pairs: 'joined' }),
        rewritten(text, { pairs: 'split' }),
      ]
    },
  },
  {
    code: 'body_empty',
    name: 'an empty body',
    sentence: 'An empty body was hashed, as happens when the hash is taken before the body is set.',
    bodies: () => [''],
  },
]

/** Finds of which body, or by which method, a body hash was made that does not match (OAuth Request Body Hash 1.0 section 3.2). */
export function diagnoseBodyHash(facts: {
  body: Uint8Array
  sent: string
  signatureMethod: SignatureMethod
}): Diagnosis {
  const { body, sent, signatureMethod } = facts
  const causes: Cause[] = []
  const ruledOut: string[] = []
  const theirs = 'Hash the very bytes that are sent, after the last change to them.'
  const hex = /^[0-9a-f]{40}([0-9a-f]{24})?$/i.test(sent)
  const wanted = hex ? base64OfHex(sent) : sent.replaceAll('-', '+').replaceAll('_', '/')
  const equals = (bytes: Uint8Array, method: SignatureMethod) => {
    const expected = bodyHash(method, bytes)
    return sameDigest(expected, wanted) || sameDigest(cutEnd(expected, '='), wanted)
  }
  if (equals(body, signatureMethod))
    causes.push({
      code: 'body_hash_form',
      sentence: 'The body’s hash is right, but not written in base64 as it must be.',
      evidence: [['sent', hex ? 'in hexadecimal figures' : 'in the alphabet for addresses, or without “=”']],
      ours: null,
      theirs: 'Write the hash in base64 with its padding.',
    })
  else ruledOut.push('the hash in another alphabet')
  const other = SIGNATURE_METHODS.find((method) => method !== signatureMethod && equals(body, method))
  if (other)
    causes.push({
      code: 'body_hash_other_digest',
      sentence: 'The body was hashed with the other method than the one that the message is signed with.',
      evidence: [
        ['signed with', signatureMethod],
        ['hashed as for', other],
      ],
      ours: null,
      theirs: `Hash the body as for ${signatureMethod}.`,
    })
  else ruledOut.push('SHA-1 in place of SHA-256')
  const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(body)
  for (const { code, name, sentence, bodies } of OTHER_BODIES) {
    const found = bodies(text).find(
      (one) => one !== text && SIGNATURE_METHODS.some((method) => equals(utf8.encode(one), method)),
    )
    if (found === undefined) ruledOut.push(name)
    else
      causes.push({
        code,
        sentence,
        evidence: [
          ['bytes received', String(body.length)],
          ['bytes hashed', String(utf8.encode(found).length)],
        ],
        ours: null,
        theirs,
      })
  }
  return concluded(
    causes,
    ruledOut,
    'The body is not the one that was hashed: something between the two ends changed it, or it was hashed too early.',
  )
}

function withoutDeclaration(text: string): string {
  const start = text.trimStart()
  const end = start.startsWith('<?xml') ? start.indexOf('?>') : -1
  return end < 0 ? text : start.slice(end + 2).trimStart()
}

function base64OfHex(hex: string): string {
  return btoa(String.fromCharCode(...(hex.match(/../g) ?? []).map((pair) => parseInt(pair, 16))))
}
