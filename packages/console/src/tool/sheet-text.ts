import type { ExchangeSheet } from '@bathyscribe/contract'

/** Lines of an exchange sheet as text, for a mail or a ticket. */
export function sheetText(lines: ExchangeSheet['toolNeeds']): string {
  return lines.map((line) => `${line.label}: ${line.value}`).join('\n')
}
