import { splitAddress } from '../../../oauth1/base-string.js'
import { splitForm, type Parameter } from '../../../oauth1/encoding.js'
import { percentDecoded } from '../../../text/index.js'
import type { Mistake, Way } from '../mistake.js'
import type { SignedFacts } from '../facts.js'
import { namesOf } from '../spellings.js'

const MOST = 20
const queryOf = ({ request }: SignedFacts) => splitAddress(request.url)?.query ?? ''

export const queryLeftOut: Mistake = {
  code: 'query_left_out',
  name: 'query parameters not signed',
  family: 'query',
  sentence: 'Parameters of the address’s own query were left out of the signature.',
  ours: null,
  theirs: 'Sign the parameters of the query along with the others (RFC 5849 section 3.4.1.3.1).',
  ways: (_, { query }) => {
    if (query.length === 0) return []
    const all: Way = { change: () => ({ query: [] }), evidence: [['not signed', namesOf(query)]] }
    if (query.length === 1) return [all]
    return [
      all,
      ...query.slice(0, MOST).map((one, n): Way => ({
        change: (signing) => ({ query: signing.query.filter((_one, i) => i !== n) }),
        evidence: [['not signed', one[0].slice(0, 200)]],
      })),
      { change: () => ({ query: query.slice(0, 1) }), evidence: [['not signed', namesOf(query.slice(1))]] },
    ]
  },
}

export const queryTwice: Mistake = {
  code: 'query_twice',
  name: 'query parameters signed twice',
  family: 'query',
  sentence: 'The parameters of the address’s own query were signed twice, or left standing in the address as well.',
  ours: null,
  theirs: 'Sign each parameter once; the address enters the base string without its query (RFC 5849 section 3.4.1.2).',
  ways: (_, { query }) =>
    query.length === 0
      ? []
      : [
          {
            change: (signing) => ({ query: [...signing.query, ...query] }),
            evidence: [['signed twice', namesOf(query)]],
          },
        ],
}

/** The address with its query, in the base string's part for the address; what is done to the parameters is a matter of its own. */
export const queryInAddress: Mistake = {
  code: 'query_in_address',
  name: 'the query left in the address',
  family: 'path',
  sentence: 'The address was signed with its query behind it.',
  ours: null,
  theirs: 'Take the query off the address, and sign its parameters with all others (RFC 5849 section 3.4.1.2).',
  ways: (facts) => {
    const query = queryOf(facts)
    return query === ''
      ? []
      : [
          {
            change: ({ behindPath }) => ({ behindPath: `?${query}${behindPath}` }),
            evidence: [['address in the base string', `with ?${query}`.slice(0, 300)]],
          },
        ]
  },
}

/** How the text of a query becomes parameters. */
export const queryReadOtherwise: Mistake = {
  code: 'query_read_otherwise',
  name: 'the query’s parameters not decoded as a form',
  family: 'query',
  sentence: 'The parameters of the address’s query were signed as they are written there, and not decoded first.',
  ours: null,
  theirs:
    'Decode the query as a form, “+” as a space, before its parameters are encoded for the signature (RFC 5849 section 3.4.1.3.1).',
  ways: (facts, right) => {
    const raw = splitForm(queryOf(facts))
    const plusKept = raw.map(([name, value]): Parameter => [percentDecoded(name), percentDecoded(value)])
    return ([[plusKept, '“+” kept as it is'], [raw, 'escapes kept as they are']] as const)
      .filter(([pairs]) => JSON.stringify(pairs) !== JSON.stringify(right.query))
      .map(([query, words]) => ({ change: () => ({ query }), evidence: [['query', words]] })) // oxfmt-ignore
  },
}
