import type { Mistake, Way } from '../mistake.js'
import { compare, sorted, type Pair } from '../signing.js'

const way = (order: (pairs: readonly Pair[]) => readonly Pair[], words: string): Way => ({
  change: () => ({ order }),
  evidence: [['order', words]],
})
/** In the order of a text that is made of each; each text is made once. */
const by = (of: (pair: Pair) => string) => (pairs: readonly Pair[]) =>
  pairs
    .map((pair) => ({ pair, text: of(pair) }))
    .sort((a, b) => compare(a.text, b.text))
    .map(({ pair }) => pair)

/** RFC 5849 section 3.4.1.3.2: encoded pairs in the order of their bytes, by name and then by value. */
export const otherOrder: Mistake = {
  code: 'other_order',
  name: 'parameters in another order',
  family: 'order',
  sentence: 'The parameters were signed in another order than that of their encoded bytes.',
  ours: null,
  theirs: 'Sort the encoded parameters by name, then by value, byte by byte (RFC 5849 section 3.4.1.3.2).',
  toTell: 'names in capitals, or two values of one name',
  ways: (_, { query }) => {
    const behindQuery = (pairs: readonly Pair[]) => [...pairs.slice(query.length), ...pairs.slice(0, query.length)]
    return [
      way((pairs) => pairs, 'as they were sent'),
      way(behindQuery, 'as they were sent, those of the query last'),
      way(
        by(({ name }) => name),
        'by name only: values of one name as they were sent',
      ),
      way(
        by(({ name, value }) => `${name.toLowerCase()} ${value.toLowerCase()}`),
        'without regard to capitals',
      ),
      way(
        by(({ name }) => name.toLowerCase()),
        'by name only, without regard to capitals',
      ),
      way(
        by(({ plain: [name, value] }) => `${name}\u0000${value}`),
        'by what they are before they are encoded',
      ),
      way(
        by(({ name, value }) => `${name}=${value}`),
        'as “name=value” in one text',
      ),
      way((pairs) => sorted(pairs).toReversed(), 'the other way round'),
      way(
        (pairs) => [
          ...sorted(pairs.filter((one) => one.plain[0].startsWith('oauth_'))),
          ...sorted(pairs.filter((one) => !one.plain[0].startsWith('oauth_'))),
        ],
        'those of OAuth first',
      ),
      way(
        (pairs) => [
          ...sorted(pairs.filter((one) => !one.plain[0].startsWith('oauth_'))),
          ...sorted(pairs.filter((one) => one.plain[0].startsWith('oauth_'))),
        ],
        'those of OAuth last',
      ),
      ...(query.length === 0
        ? []
        : [
            way(
              (pairs) => [...sorted(pairs.slice(query.length)), ...pairs.slice(0, query.length)],
              'those of the query behind the others, not sorted',
            ),
          ]),
    ]
  },
}
