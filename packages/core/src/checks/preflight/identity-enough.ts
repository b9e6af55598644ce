import type { Rule } from './rule.js'

export const identityEnough: Rule = {
  code: 'identity_enough',
  severity: 'warn',
  field: 'tool',
  demands: 'The tool may see what it cannot work without.',
  judge: ({ tool: { asks, disclosure, name } }) => {
    const seen = { opaque: [] as string[], name: ['name'], email: ['email'], name_and_email: ['name', 'email'] }[
      disclosure
    ]
    const missing = asks.filter((one) => !seen.includes(one))
    return missing.length === 0
      ? undefined
      : {
          statement: `${name} asks for ${missing.join(' and ')} of each person, which its registration keeps back.`,
          remedy: 'Ask the technologist to widen what the tool may see, if it does not work without.',
        }
  },
}
