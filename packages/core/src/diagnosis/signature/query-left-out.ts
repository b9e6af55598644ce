import { upTo } from '../../text/index.js'
import { atAddresses } from './address.js'
import type { SignatureCause } from './facts.js'

export const queryLeftOut: SignatureCause = {
  code: 'query_left_out',
  name: 'query parameters not signed',
  sentence: 'The parameters of the address’s own query were left out of the signature.',
  ours: null,
  theirs: 'Sign the parameters of the query along with the others (RFC 5849 section 3.4.1.3.1).',
  variants: (facts) => atAddresses(facts, [upTo(facts.request.url, '?#')]),
}
