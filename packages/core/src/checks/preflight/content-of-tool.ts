import type { Rule } from './rule.js'

export const contentOfTool: Rule = {
  code: 'content_of_tool',
  severity: 'fail',
  field: 'content',
  demands: 'Its content was picked in the tool that it is launched by.',
  judge: ({ assignment: { content, contentToolId }, tool }) =>
    content && contentToolId !== null && contentToolId !== tool.id
      ? {
          statement: `Its content was picked in another tool’s picker, which ${tool.name} does not know.`,
          remedy: 'Pick it again in this tool, or go back to the tool that it came from.',
        }
      : undefined,
}
