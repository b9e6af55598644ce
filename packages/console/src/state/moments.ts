/** What an input of date and time holds for a moment, in the person's own zone; empty for none. */
export function toInput(iso: string | null): string {
  if (iso === null) return ''
  const at = new Date(iso)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`
}

/** The moment that such an input holds; null for none. */
export function fromInput(text: string): string | null {
  if (text === '') return null
  const at = new Date(text)
  return Number.isNaN(at.getTime()) ? null : at.toISOString()
}

const SHORT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
/** `1 Dec, 23:59` in the person's zone. */
export function shortMoment(iso: string): string {
  return SHORT.format(new Date(iso))
}
