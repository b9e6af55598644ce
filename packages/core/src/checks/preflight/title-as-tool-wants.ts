import type { Rule } from './rule.js'

const plain = (text: string) => text.normalize('NFKC').toLowerCase().replace(/\s+/g, ' ').trim()

export const titleAsToolWants: Rule = {
  code: 'title_as_tool_wants',
  severity: 'warn',
  field: 'title',
  demands: 'A tool that hangs its permissions on titles gets one that it knows, letter by letter.',
  judge: ({ assignment: { title }, tool: { exactTitles, name } }) => {
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
  },
}
