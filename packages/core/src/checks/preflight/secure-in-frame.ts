import { defineRule } from './rule.js'

export const secureInFrame = defineRule({
  code: 'secure_in_frame',
  severity: 'fail',
  field: 'target',
  demands: 'A secure page frames only secure tools.',
  judge: ({ platformIsSecure, assignment: { documentTarget, launchUrl } }) =>
    platformIsSecure && documentTarget === 'frame' && launchUrl?.startsWith('http:') ? {} : undefined,
  words: () => ({
    statement: 'The tool’s address begins with http, which browsers do not show inside a secure page.',
    remedy: 'Use its https address, or open it in a window.',
  }),
})
