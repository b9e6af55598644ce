import { defineRule } from './rule.js'

export const toldApart = defineRule({
  code: 'told_apart',
  severity: 'warn',
  field: 'content',
  demands: 'Two assignments on one content can be told apart by the tool.',
  judge: ({ sameContent, tool }) =>
    sameContent.length > 0 && tool.version === '1.1' ? { tool: tool.name } : undefined,
  words: ({ tool }) => ({
    statement: `By LTI 1.1 ${tool} is told nothing but the link’s identifier: some tools then take both assignments for one.`,
    remedy: 'Try both as a learner, or use the tool by LTI 1.3, where each assignment names its own column.',
  }),
})
