import { defineRule } from './rule.js'

export const contentChosen = defineRule({
  code: 'content_chosen',
  severity: 'warn',
  field: 'content',
  demands: 'It leads to content, not to the tool’s front page.',
  judge: ({ assignment: { content, ownUrl, custom }, tool }) =>
    !tool.hasPicker || tool.firstEntry === 'link' || content || ownUrl || Object.keys(custom).length > 0
      ? undefined
      : { tool: tool.name },
  words: ({ tool }) => ({
    statement: `No content is chosen: it leads to the front page of ${tool}.`,
    remedy: 'Open the tool’s picker and choose what learners should do.',
  }),
})
