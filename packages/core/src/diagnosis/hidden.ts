/** Removes blanks, line ends, quotes and invisible characters at both ends of a copied value. */
export function stripHidden(text: string): string {
  const hidden = '[\\s"\'\u200b-\u200f\u2060\ufeff\u00ad]+'
  return text.replace(new RegExp(`^${hidden}`), '').replace(new RegExp(`${hidden}$`), '')
}
