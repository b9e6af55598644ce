import { HASH_OF, type HashName, type SignatureMethod } from '../oauth1/digest.js'
import { percentEncode } from '../oauth1/encoding.js'
import { concluded, together, type Cause, type Diagnosis, type Found } from './cause.js'
import { bodyCommand } from './letter/commands.js'
import { Proof } from './proof.js'
import { rewritten } from './rewritten-xml.js'
import { writtenForms, type Written } from './signature/written-forms.js'

const utf8 = new TextEncoder()

interface OtherBody {
  code: string
  name: string
  sentence: string
  bodies: (text: string) => (string | Uint8Array)[]
}

/** Of a body that was changed between hashing and sending: the forms it may have had before. */
const OTHER_BODIES: readonly OtherBody[] = [
  {
    code: 'body_line_ends',
    name: 'other line ends or spaces at the ends',
    sentence: 'The body was hashed with other line ends, or with other spaces at its ends, than it was sent with.',
    bodies: (text) => {
      const lines = text.replace(/\r\n/g, '\n')
      return [lines, lines.replace(/\n/g, '\r\n')]
        .flatMap((one) => [one, one.trim(), `${one.trim()}\n`, `${one.trim()}\r\n`])
        .concat(text.replace(/^\ufeff/, ''), `\ufeff${text}`)
    },
  },
  {
    code: 'body_reserialised',
    name: 'the XML rewritten',
    sentence:
      'The body was rewritten after it was hashed: its declaration, its indentation or its empty elements differ.',
    bodies: (text) => {
      const bare = withoutDeclaration(text)
      return [
        bare,
        ...[
          '<?xml version="1.0" encoding="UTF-8"?>',
          '<?xml version="1.0" encoding="utf-8"?>',
          '<?xml version="1.0"?>',
          "<?xml version='1.0' encoding='UTF-8'?>",
          "<?xml version='1.0' encoding='utf-8'?>",
          "<?xml version='1.0'?>",
          '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>',
          '<?xml version="1.0" encoding="UTF-8" standalone="no"?>',
          '<?xml version="1.0" encoding="ISO-8859-1"?>',
        ].flatMap((head) => [`${head}${bare}`, `${head}\n${bare}`]),
        ...[text, bare].map((one) => rewritten(one, { between: '' })),
        ...(['/>', ' />'] as const).map((empty) => rewritten(text, { empty })),
        rewritten(text, { pairs: 'joined' }),
        rewritten(text, { pairs: 'split' }),
        text.replaceAll('"', "'"),
        text.replaceAll("'", '"'),
      ]
    },
  },
  {
    code: 'body_other_charset',
    name: 'another character set than UTF-8',
    sentence: 'The body was hashed in another character set than the one that it was sent in.',
    bodies: (text) => [
      bytesOf(text, 1),
      bytesOf(text, 2),
      new Uint8Array([0xff, 0xfe, ...bytesOf(text, 2)]),
      bytesOf(text, 2, 'big'),
      new Uint8Array([0xfe, 0xff, ...bytesOf(text, 2, 'big')]),
    ],
  },
  {
    code: 'body_empty',
    name: 'an empty body',
    sentence: 'An empty body was hashed, as happens when the hash is taken before the body is set.',
    bodies: () => [''],
  },
]

/** A body with the hash that was sent for it, which is not its hash. */
export interface BodyHashFacts {
  body: Uint8Array
  sent: string
  signatureMethod: SignatureMethod
  /** What a body is signed with by who takes its hash for a signature. */
  sharedSecret?: string
}

/** Finds of which body, or by which method, a body hash was made that does not match (OAuth Request Body Hash 1.0 section 3.2). */
export function diagnoseBodyHash({ body, sent, signatureMethod, sharedSecret }: BodyHashFacts): Diagnosis {
  const ruledOut: string[] = []
  const written = writtenForms(sent)
  const signed = HASH_OF[signatureMethod]
  /** How a body would have come to the hash that was sent, if it would. */
  const hashed = (bytes: Uint8Array) => {
    for (const { digest, forms, hash } of written) {
      const proof = hash && Proof.byBodyHash(hash, bytes, digest)
      if (proof) return { hash, forms, proof }
    }
    return undefined
  }
  const reproduce = bodyCommand(signed, body)
  const asSent = hashed(body)
  if (asSent) {
    const causes = hashedOtherwise(signed, asSent)
    const found = causes.length > 0 ? [{ ...together(causes), reproduce, proof: asSent.proof }] : []
    return concluded(found, [], 'The hash is that of the body that came, as it must be written.')
  }
  const keyed = sharedSecret === undefined ? undefined : hashedWithKey(body, written, sharedSecret)
  if (keyed) return concluded([{ ...keyed, reproduce }], [], '')
  ruledOut.push('the hash in another form', 'another hash')
  const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(body)
  const found: Found[] = []
  for (const { code, name, sentence, bodies } of OTHER_BODIES) {
    const made = firstOf(bodies(text), (one) => {
      const bytes = typeof one === 'string' ? utf8.encode(one) : one
      const how = hashed(bytes)
      return how && { ...how, length: bytes.length }
    })
    if (!made) {
      ruledOut.push(name)
      continue
    }
    const cause: Cause = {
      code,
      sentence,
      evidence: [
        ['bytes received', String(body.length)],
        ['bytes hashed', String(made.length)],
      ],
      ours: null,
      theirs: 'Hash the very bytes that are sent, after the last change to them.',
    }
    found.push({ ...together([cause, ...hashedOtherwise(signed, made)]), reproduce, proof: made.proof })
  }
  return concluded(
    found,
    ruledOut,
    'The body is not the one that was hashed: something between the two ends changed it, or it was hashed too early.',
  )
}

/** Whose hash is a signature of the body. */
function hashedWithKey(body: Uint8Array, written: readonly Written[], secret: string): Found | undefined {
  const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(body)
  const keys = [
    ['the encoded secret and “&”', `${percentEncode(secret)}&`],
    ['the secret', secret],
  ] as const
  for (const { digest, hash } of written)
    for (const [words, key] of keys) {
      const proof = hash && Proof.byMac(hash, key, text, digest)
      if (proof)
        return {
          code: 'body_hash_keyed',
          sentence: 'The body’s hash was made with a key: it is a signature of the body, and no hash.',
          evidence: [['key', words]],
          ours: null,
          theirs: 'Hash the body without a key; the signature of the message comes after that.',
          proof,
        }
    }
  return undefined
}

/** What is wrong with the hash itself, whatever body it is of. */
function hashedOtherwise(signed: HashName, how: { hash: HashName; forms: readonly string[] }): Cause[] {
  return [
    ...(how.hash === signed ? [] : [otherHash(signed, how.hash)]),
    ...(how.forms.length > 0 ? [form(how.forms)] : []),
  ]
}

function form(forms: readonly string[]): Cause {
  return {
    code: 'body_hash_form',
    sentence: 'The body’s hash is not written in base64 as it must be.',
    evidence: [['written', forms.join(', ')]],
    ours: null,
    theirs: 'Write the hash in base64 with its padding.',
  }
}

const NAMES: Readonly<Record<HashName, string>> = { md5: 'MD5', sha1: 'SHA-1', sha256: 'SHA-256', sha384: 'SHA-384', sha512: 'SHA-512' } // oxfmt-ignore

function otherHash(signed: HashName, used: HashName): Cause {
  return {
    code: 'body_hash_other_digest',
    sentence: 'The body was hashed with another method than the one that the message is signed with.',
    evidence: [
      ['signed with', NAMES[signed]],
      ['hashed with', NAMES[used]],
    ],
    ours: null,
    theirs: `Hash the body with ${NAMES[signed]}.`,
  }
}

function firstOf<T, R>(all: readonly T[], find: (one: T) => R | undefined): R | undefined {
  for (const one of all) {
    const found = find(one)
    if (found !== undefined) return found
  }
  return undefined
}

/** A text in units of one or two bytes, little end first unless said otherwise; what does not fit into one byte is “?”. */
function bytesOf(text: string, unit: 1 | 2, end: 'little' | 'big' = 'little'): Uint8Array {
  const bytes = new Uint8Array(text.length * unit)
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i)
    if (unit === 1) bytes[i] = code > 0xff ? 0x3f : code
    else {
      bytes[i * 2 + (end === 'little' ? 0 : 1)] = code & 0xff
      bytes[i * 2 + (end === 'little' ? 1 : 0)] = code >> 8
    }
  }
  return bytes
}

function withoutDeclaration(text: string): string {
  const start = text.trimStart()
  const end = start.startsWith('<?xml') ? start.indexOf('?>') : -1
  return end < 0 ? text : start.slice(end + 2).trimStart()
}
