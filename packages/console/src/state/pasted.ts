const HIDDEN = /^[\s"'\u200b-\u200f\u2060\ufeff\u00ad]$/

/** A pasted value without the spaces, quotes and invisible characters that were copied along at its ends. */
export function trimPasted(text: string): string {
  let start = 0
  let end = text.length
  while (end > start && HIDDEN.test(text[end - 1]!)) end--
  while (start < end && HIDDEN.test(text[start]!)) start++
  return text.slice(start, end)
}
