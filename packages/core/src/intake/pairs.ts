import { FIELD_WORDS, purposeIn, type Field } from './fields.js'
import type { IntakeRemark, KeyPair, Recognised } from './handover.js'

/** Each key with the secret that comes nearest after it. */
export function pairsOf(all: readonly Recognised[], text: string): KeyPair[] {
  const keys = all.filter((one) => one.field === 'consumerKey')
  const secrets = all.filter((one) => one.field === 'sharedSecret')
  const pairs: KeyPair[] = []
  keys.forEach((key, i) => {
    // Several keys may come with one secret.
    const secret = secrets[i] ?? (secrets.length === 1 ? secrets[0] : undefined)
    if (!secret || pairs.some((pair) => pair.consumerKey === key.value && pair.sharedSecret === secret.value)) return
    pairs.push({ consumerKey: key.value, sharedSecret: secret.value, ...purposeOf(key, keys[i - 1], text) })
  })
  return pairs
}

/** What stands above a pair: a heading or sentence that says what it is for. */
function purposeOf(
  key: Recognised,
  before: Recognised | undefined,
  text: string,
): Pick<KeyPair, 'purpose' | 'returnsScores'> {
  const lineOf = (one: Recognised | undefined) => Number(/line (\d+)/.exec(one?.source ?? '')?.[1] ?? 0)
  const above = text
    .split(/\r\n|\r|\n/)
    .slice(lineOf(before) === 0 ? 0 : lineOf(before) + 1, Math.max(0, lineOf(key) - 1))
    .map((line) => line.trim())
    .filter((line) => /[\p{L}]{3}/u.test(line))
  const own = purposeIn(key.source.slice(key.source.indexOf('“') + 1, -1))
  const purpose = (
    (own || above.findLast((line) => /grade|score|link|content|return|assign|menu|librar/i.test(line))) ??
    above.at(-1) ??
    ''
  ).slice(0, 200)
  const says = purpose.toLowerCase()
  const scores = /grade|score|outcome|assignment/.test(says)
  const without =
    /\b(?:no|not|without|non|never|only)\b[^.]*(?:grade|score|outcome)|ungraded|links? only|content only/.test(says) &&
    !/(?:grade|score)s? only|only (?:grade|score)/.test(says)
  return { purpose, returnsScores: without ? false : scores ? true : null }
}

export function contradictions(all: readonly Recognised[], pairs: readonly KeyPair[]): IntakeRemark[] {
  const single: Field[] = [
    'launchUrl',
    'clientId',
    'initiationUrl',
    'keysetUrl',
    ...(pairs.length > 1 ? [] : (['consumerKey', 'sharedSecret'] as const)),
  ]
  return single.flatMap((field) => {
    const values = [...new Set(all.filter((one) => one.field === field).map((one) => one.value))]
    return values.length > 1
      ? [
          {
            code: 'contradiction' as const,
            field,
            verdict: 'warn' as const,
            statement: `There are ${values.length} different values for the ${FIELD_WORDS[field]}; the first is taken.`,
            remedy: 'Check which one is meant.',
          },
        ]
      : []
  })
}
