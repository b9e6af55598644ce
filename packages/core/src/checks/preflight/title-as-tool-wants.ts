import type { Rule, ToolFacts } from './rule.js'

const plain = (text: string) => text.normalize('NFKC').toLowerCase().replace(/\s+/g, ' ').trim()

/** What is wrong with a link's title for a tool that opens under certain titles only. @returns undefined when nothing is */
export function titleFault(
  title: string,
  { exactTitles, name }: Pick<ToolFacts, 'exactTitles' | 'name'>,
): { statement: string; remedy: string } | undefined {
  if (exactTitles.length === 0 || exactTitles.includes(title)) return undefined
  const near = exactTitles.find((one) => plain(one) === plain(title))
  return near
    ? {
        statement: `${name} opens under “${near}”, letter by letter; “${title}” is written differently.`,
        remedy: `Call it “${near}”.`,
      }
    : {
        statement: `${name} opens only under certain titles, and “${title}” is none of them.`,
        remedy: `Use one of: ${exactTitles.slice(0, 8).join(', ')}.`,
      }
}

export const titleAsToolWants: Rule = {
  code: 'title_as_tool_wants',
  severity: 'warn',
  field: 'title',
  demands: 'A tool that hangs its permissions on titles gets one that it knows, letter by letter.',
  judge: ({ assignment, tool }) => titleFault(assignment.title, tool),
}
