import { checkLaunchAddress } from '../links/launch-address.js'
import {
  expiryInText,
  expiryOf,
  isCutShort,
  isPlaceholder,
  isPlaceholderAddress,
  isPrivateHost,
  looksNamed,
  looksRandom,
} from './clean.js'
import { FIELD_WORDS, isAddress, isToken } from './fields.js'
import type { IntakeRemark, KeyPair, Recognised } from './handover.js'

type Judge = (one: Recognised, now: Date) => Omit<IntakeRemark, 'field'> | undefined

const word = (one: Recognised) => FIELD_WORDS[one.field]

/** What is looked for in every single value. */
const JUDGES: readonly Judge[] = [
  (one) =>
    one.removed.length > 0
      ? {
          code: 'hidden_characters',
          verdict: 'warn',
          statement: `Around or inside the ${word(one)} there were ${one.removed.join(', ')}; they were left out.`,
          remedy: 'Compare it with what the vendor’s page shows, and enter them again only if they belong to it.',
        }
      : undefined,
  (one) =>
    isToken(one.field) && /\s/.test(one.value)
      ? {
          code: 'blank_inside',
          verdict: 'warn',
          statement: `The ${word(one)} has a space inside.`,
          remedy: 'Check that it is one value, and that nothing beside it was copied along.',
        }
      : undefined,
  (one) =>
    (isToken(one.field) && isPlaceholder(one.value)) || (isAddress(one.field) && isPlaceholderAddress(one.value))
      ? {
          code: 'placeholder',
          verdict: 'fail',
          statement: `The ${word(one)} is “${one.value.slice(0, 80)}”: that is a placeholder for the real value, or hides it.`,
          remedy: 'Open the vendor’s page again, show the real value there, and copy that.',
        }
      : undefined,
  (one) =>
    isToken(one.field) && isCutShort(one.value)
      ? {
          code: 'cut_short',
          verdict: 'fail',
          statement: `The ${word(one)} was cut short where it was shown.`,
          remedy: 'Use the copy button of the vendor’s page, or widen the column, and copy the whole value.',
        }
      : undefined,
  (one) =>
    one.field === 'sharedSecret' && one.value.length < 8 && !isPlaceholder(one.value)
      ? {
          code: 'too_short',
          verdict: 'warn',
          statement: `The shared secret has only ${one.value.length} characters.`,
          remedy: 'Check that all of it was copied; a secret this short can be guessed.',
        }
      : undefined,
  (one) => {
    const problem = isAddress(one.field) ? checkLaunchAddress(one.value) : undefined
    return problem && !isPlaceholderAddress(one.value)
      ? {
          code: 'address_unusable',
          verdict: 'fail',
          statement: `The ${word(one)} cannot be used as it is (${problem.detail}).`,
          remedy: 'Copy the whole address, from https:// on.',
        }
      : undefined
  },
  (one) =>
    isAddress(one.field) && /^http:/i.test(one.value) && !isPrivateHost(one.value)
      ? {
          code: 'not_secure',
          verdict: 'warn',
          statement: `The ${word(one)} begins with http: what is sent there can be read on the way.`,
          remedy: 'Use its https address if the tool has one; most do.',
        }
      : undefined,
  (one) =>
    isAddress(one.field) && isPrivateHost(one.value)
      ? {
          code: 'private_address',
          verdict: 'warn',
          statement: `The ${word(one)} leads to a private host, which only this network reaches.`,
          remedy: 'Ask the vendor for the public address, unless the tool runs inside your own network.',
        }
      : undefined,
  (one) => {
    const own = one.field === 'launchUrl' ? personalPart(one.value) : undefined
    return own === undefined
      ? undefined
      : {
          code: 'personal_part',
          verdict: 'warn',
          statement: `The ${word(one)} carries “${own}=…”, which looks like one visit or one person’s.`,
          remedy: 'Take it out unless the vendor says that it belongs there: everybody would come as that one.',
        }
  },
  (one, now) => {
    const expiry = isAddress(one.field) ? expiryOf(one.value) : undefined
    return expiry && expiry < now
      ? expired(`The ${word(one)} says of itself that it ended on ${day(expiry)}.`)
      : undefined
  },
]

/** A part of an address by which one person or one visit is known; undefined when there is none. */
function personalPart(address: string): string | undefined {
  if (!URL.canParse(address)) return undefined
  return [...new URL(address).searchParams.keys()].find((name) =>
    /^(?:(?:j?session|php_?sess|s)_?(?:id)?|sid|(?:access|auth)?_?token|auth|user(?:_?(?:id|name))?|login|e-?mail)$/i.test(
      name,
    ),
  )
}

const expired = (statement: string) => ({
  code: 'expired' as const,
  verdict: 'fail' as const,
  statement,
  remedy: 'Ask the vendor for a new one.',
})

/** Everything that is wrong or doubtful, failures first. */
export function judge(
  recognised: readonly Recognised[],
  pairs: readonly KeyPair[],
  text: string,
  now: Date,
): IntakeRemark[] {
  const remarks: IntakeRemark[] = recognised.flatMap((one) =>
    JUDGES.flatMap((look) => {
      const remark = look(one, now)
      return remark ? [{ ...remark, field: one.field }] : []
    }),
  )
  for (const line of text.split('\n').slice(0, 2000)) {
    const until = expiryInText(line.slice(0, 2000))
    if (until && until < now)
      remarks.push({ ...expired(`It says “${line.trim().slice(0, 120)}”, which is over.`), field: null })
  }
  const [pair] = pairs
  if (pairs.length === 1 && pair) remarks.push(...judgePair(pair.consumerKey, pair.sharedSecret))
  if (pairs.length > 1)
    remarks.push({
      code: 'two_pairs',
      field: null,
      verdict: 'fail',
      statement: `There are ${pairs.length} pairs of key and secret in it.`,
      remedy: 'Choose the one that this registration is for; the others can be registered after it.',
    })
  return remarks.sort((a, b) => Number(a.verdict === 'warn') - Number(b.verdict === 'warn'))
}

function judgePair(key: string, secret: string): IntakeRemark[] {
  if (key === secret && key !== '')
    return [
      {
        code: 'key_is_secret',
        field: 'sharedSecret',
        verdict: 'fail',
        statement: 'Consumer key and shared secret are the same value.',
        remedy: 'One of the two was copied twice: copy the other again.',
      },
    ]
  return looksRandom(key) && key.length > secret.length && looksNamed(secret)
    ? [
        {
          code: 'swapped',
          field: 'consumerKey',
          verdict: 'warn',
          statement: 'Key and secret may be swapped: the key looks made up by a machine, the secret looks like a name.',
          remedy: 'Compare both with the vendor’s page, and exchange them if it is so.',
        },
      ]
    : []
}

function day(date: Date): string {
  return date.toISOString().slice(0, 10)
}
