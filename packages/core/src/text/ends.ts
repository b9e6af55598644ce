// Expressions such as /x+$/ look at every run of x anew from each of its characters, which takes hours on a hostile text. These look once.

/** Cuts off what stands at the end of a text, as long as it is one of these characters. */
export function cutEnd(text: string, characters: string): string {
  let end = text.length
  while (end > 0 && characters.includes(text[end - 1]!)) end--
  return text.slice(0, end)
}

/** Cuts off what stands at the start of a text, as long as it is one of these characters. */
export function cutStart(text: string, characters: string): string {
  let start = 0
  while (start < text.length && characters.includes(text[start]!)) start++
  return text.slice(start)
}

export function cutEnds(text: string, characters: string): string {
  return cutStart(cutEnd(text, characters), characters)
}

/** What stands before the first of these characters. */
export function upTo(text: string, characters: string): string {
  for (let i = 0; i < text.length; i++) if (characters.includes(text[i]!)) return text.slice(0, i)
  return text
}

/** A decimal without the zeros at its end: `1.50` is `1.5`, `2.0` is `2`; whole numbers stay as they are. */
export function plainDecimal(text: string): string {
  return text.includes('.') ? cutEnd(cutEnd(text, '0'), '.') : text
}

const HIDDEN = /^[\s"'\u200b-\u200f\u2060\ufeff\u00ad]$/

/** Removes spaces, line ends, quotes and invisible characters at both ends of a copied value. */
export function stripHidden(text: string): string {
  let start = 0
  let end = text.length
  while (end > start && HIDDEN.test(text[end - 1]!)) end--
  while (start < end && HIDDEN.test(text[start]!)) start++
  return text.slice(start, end)
}

/** Removes every part from an opening character to the next closing one: what stands in brackets. */
export function withoutBracketed(text: string, open: string, close: string, instead = ' '): string {
  let kept = ''
  let from = 0
  for (;;) {
    const start = text.indexOf(open, from)
    const end = start < 0 ? -1 : text.indexOf(close, start)
    if (end < 0) return kept + text.slice(from)
    kept += text.slice(from, start) + instead
    from = end + 1
  }
}

/** The beginning of a text, so many UTF-16 units at most, and no half of a character at its end: PostgreSQL takes none. */
export function shortened(text: string, most: number): string {
  if (text.length <= most) return text
  const last = text.charCodeAt(most - 1)
  return text.slice(0, last >= 0xd800 && last <= 0xdbff ? most - 1 : most)
}

/** A text in the few characters that OAuth has for descriptions (RFC 6749 section 5.2: %x20-21, %x23-5B, %x5D-7E). */
export function plainAscii(text: string): string {
  return text
    .replace(/[“”"]/g, "'")
    .replace(/[’‘]/g, "'")
    .replace(/[–—]/g, '-')
    .replaceAll('…', '...')
    .replaceAll('\\', '/')
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/[^\x20-\x7e]/gu, '?')
}
