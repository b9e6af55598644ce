import { defineRule } from './rule.js'

export const toolLookAlike = defineRule({
  code: 'tool_look_alike',
  severity: 'warn',
  field: 'tool',
  demands: 'Of two registrations almost of one name a course uses one.',
  judge: ({ lookAlike, tool }) => (lookAlike ? { ...lookAlike, tool: tool.name } : undefined),
  words: ({ name, used, tool }) => ({
    statement: `${used === 1 ? 'Another assignment' : `${used} other assignments`} of this course ${used === 1 ? 'uses' : 'use'} “${name}”, which looks almost like “${tool}”.`,
    remedy: 'Make sure that it is this one: accounts and scores of the two are kept apart at the tool’s end.',
  }),
})
