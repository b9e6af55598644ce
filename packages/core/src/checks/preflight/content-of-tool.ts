import { defineRule } from './rule.js'

export const contentOfTool = defineRule({
  code: 'content_of_tool',
  severity: 'fail',
  field: 'content',
  demands: 'Its content was picked in the tool that it is launched by.',
  judge: ({ assignment: { content, contentToolId }, tool }) =>
    content && contentToolId !== null && contentToolId !== tool.id ? { tool: tool.name } : undefined,
  words: ({ tool }) => ({
    statement: `Its content was picked in another tool’s picker, which ${tool} does not know.`,
    remedy: 'Pick it again in this tool, or go back to the tool that it came from.',
  }),
})
