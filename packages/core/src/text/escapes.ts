/** Percent-decoded as UTF-8 (RFC 3986 section 2.1). A text with a broken escape stays as it is, so that it can be shown. */
export function percentDecoded(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}
