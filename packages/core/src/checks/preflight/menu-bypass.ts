import { defineRule } from './rule.js'

export const menuBypass = defineRule({
  code: 'menu_bypass',
  severity: 'warn',
  field: 'tool',
  demands: 'Learners enter the tool by its assignments.',
  judge: ({ tool, assignment: { counted } }) =>
    tool.menuLabel !== null && counted && tool.returnsScores ? { label: tool.menuLabel } : undefined,
  words: ({ label }) => ({
    statement: `The tool is also in the course’s menu as “${label}”: work that is begun there is tied to no assignment.`,
    remedy: 'Hide the menu entry from learners, or tell them to begin at the assignment.',
  }),
})
