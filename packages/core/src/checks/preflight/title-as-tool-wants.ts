import { defineRule, type ToolFacts } from './rule.js'

const plain = (text: string) => text.normalize('NFKC').toLowerCase().replace(/\s+/g, ' ').trim()

/** What is wrong with a link's title for a tool that opens under certain titles only. */
type TitleFault = { tool: string; title: string; near: string | null; titles: readonly string[] }

/** @returns undefined when nothing is wrong */
function titleFaultIn(
  title: string,
  { exactTitles, name }: Pick<ToolFacts, 'exactTitles' | 'name'>,
): TitleFault | undefined {
  if (exactTitles.length === 0 || exactTitles.includes(title)) return undefined
  const near = exactTitles.find((one) => plain(one) === plain(title)) ?? null
  return { tool: name, title, near, titles: exactTitles.slice(0, 8) }
}

function titleFaultWords({ tool, title, near, titles }: TitleFault): { statement: string; remedy: string } {
  return near === null
    ? {
        statement: `${tool} opens only under certain titles, and “${title}” is none of them.`,
        remedy: `Use one of: ${titles.join(', ')}.`,
      }
    : {
        statement: `${tool} opens only under “${near}”; “${title}” is written differently.`,
        remedy: `Call it “${near}”.`,
      }
}

/** The same in words. @returns undefined when nothing is wrong */
export function titleFault(
  title: string,
  tool: Pick<ToolFacts, 'exactTitles' | 'name'>,
): { statement: string; remedy: string } | undefined {
  const fault = titleFaultIn(title, tool)
  return fault && titleFaultWords(fault)
}

export const titleAsToolWants = defineRule({
  code: 'title_as_tool_wants',
  severity: 'warn',
  field: 'title',
  demands: 'A tool whose permissions depend on titles gets exactly one of the titles it knows.',
  judge: ({ assignment, tool }) => titleFaultIn(assignment.title, tool),
  words: titleFaultWords,
})
