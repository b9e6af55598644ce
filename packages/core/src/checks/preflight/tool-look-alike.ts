import type { Rule } from './rule.js'

export const toolLookAlike: Rule = {
  code: 'tool_look_alike',
  severity: 'warn',
  field: 'tool',
  demands: 'Of two registrations almost of one name a course uses one.',
  judge: ({ lookAlike, tool }) =>
    lookAlike
      ? {
          statement: `${lookAlike.used === 1 ? 'Another assignment' : `${lookAlike.used} other assignments`} of this course ${lookAlike.used === 1 ? 'uses' : 'use'} “${lookAlike.name}”, which looks almost like “${tool.name}”.`,
          remedy: 'Make sure that it is this one: accounts and scores of the two are kept apart at the tool’s end.',
        }
      : undefined,
}
