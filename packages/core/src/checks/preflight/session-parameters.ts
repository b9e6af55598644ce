import { readPastedAddress } from '../../links/clean-address.js'
import type { Rule } from './rule.js'

export const sessionParameters: Rule = {
  code: 'session_parameters',
  severity: 'warn',
  field: 'address',
  demands: 'Its address carries nobody’s session.',
  judge: ({ now, assignment: { ownUrl } }) => {
    const read = ownUrl === null ? undefined : readPastedAddress(ownUrl, { identities: [], now })
    const found = read && 'parameters' in read ? read.parameters.filter((one) => one.verdict === 'session') : []
    if (found.length === 0) return undefined
    return {
      statement: `Its address carries what looks like the session of the one who copied it: ${found.map((one) => `“${one.name}”`).join(', ')}.`,
      remedy: 'Let the address be cleaned, then try it by a launch.',
    }
  },
}
