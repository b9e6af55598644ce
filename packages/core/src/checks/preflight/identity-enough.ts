import type { Disclosure } from '../../identity/index.js'
import { defineRule } from './rule.js'

/** What a tool is told of a person under each limit. */
const SEEN: Record<Disclosure, readonly string[]> = {
  opaque: [],
  name: ['name'],
  email: ['email'],
  name_and_email: ['name', 'email'],
}

export const identityEnough = defineRule({
  code: 'identity_enough',
  severity: 'warn',
  field: 'tool',
  demands: 'The tool may see what it cannot work without.',
  judge: ({ tool: { asks, disclosure, name } }) => {
    const seen = SEEN[disclosure]
    const missing = asks.filter((one) => !seen.includes(one))
    return missing.length === 0 ? undefined : { tool: name, missing }
  },
  words: ({ tool, missing }) => ({
    statement: `${tool} asks for ${missing.join(' and ')} of each person, which its registration keeps back.`,
    remedy: 'Ask the technologist to widen what the tool may see, if it does not work without.',
  }),
})
