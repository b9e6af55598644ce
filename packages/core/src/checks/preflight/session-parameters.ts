import { readPastedAddress } from '../../links/clean-address.js'
import { defineRule, quoted } from './rule.js'

export const sessionParameters = defineRule({
  code: 'session_parameters',
  severity: 'warn',
  field: 'address',
  demands: 'Its address carries nobody’s session.',
  judge: ({ now, assignment: { ownUrl } }) => {
    const read = ownUrl === null ? undefined : readPastedAddress(ownUrl, { identities: [], now })
    const found = read && 'parameters' in read ? read.parameters.filter((one) => one.verdict === 'session') : []
    return found.length === 0 ? undefined : { names: found.map((one) => one.name) }
  },
  words: ({ names }) => ({
    statement: `Its address carries what looks like the session of the one who copied it: ${quoted(names)}.`,
    remedy: 'Let the address be cleaned, then try it by a launch.',
  }),
})
