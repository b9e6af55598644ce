import { concluded, type Diagnosis } from './cause.js'
import { nearestIdentifier } from './nearly.js'
import { Proof } from './proof.js'

/** A registration, by what a message of OAuth names it. */
interface Holder {
  label: string
  consumerKey: string
}

/**
 * Whose a consumer key is that was not the one that it had to be, or whose it nearly is.
 * @param expected the registration that the message belongs to; null when the key is all that names one
 */
export function diagnoseConsumerKey({
  given,
  expected,
  others,
}: {
  given: string
  expected: Holder | null
  others: readonly Holder[]
}): Diagnosis {
  const evidence: [string, string][] = [
    ['oauth_consumer_key', `“${given.slice(0, 80)}”`],
    ...(expected ? [[`of ${expected.label}`, `“${expected.consumerKey}”`] as [string, string]] : []),
  ]
  const holder = others.find(({ consumerKey }) => consumerKey === given)
  if (holder)
    return concluded(
      [
        {
          code: 'key_of_another',
          sentence: `The consumer key is that of ${holder.label}${expected ? `, and the message belongs to ${expected.label}` : ''}.`,
          evidence,
          ours: 'If both are the same tool, registered twice, use one of the two for its links and its picker.',
          theirs: 'Answer with the key by which the launch was signed.',
          proof: Proof.byComparing(given, holder.consumerKey),
        },
      ],
      [],
      '',
    )
  const known = expected ? [expected, ...others] : others
  const keys = known.map(({ consumerKey }) => consumerKey)
  const near = nearestIdentifier(given, keys)
  return concluded(
    near
      ? [
          {
            code: 'key_nearly',
            sentence: `The consumer key is nearly that of ${known.find(({ consumerKey }) => consumerKey === near.identifier)!.label}: ${near.difference}.`,
            evidence: [...evidence, ['expected', `“${near.identifier}”`]],
            ours: null,
            theirs: 'Copy the consumer key from the exchange sheet, without anything around it.',
            proof: Proof.byNoneOf([given], keys),
          },
        ]
      : [],
    ['the keys of other registrations', 'a key that is nearly one of them'],
    'The consumer key is that of no registration here, nor nearly.',
  )
}
