/** Why an address cannot be launched, or (`secure: false`) what is doubtful about it. */
export interface AddressProblem {
  code: 'address.malformed' | 'address.scheme' | 'address.credentials' | 'address.fragment' | 'address.too_long'
  detail: string
}

const MAX_CHARACTERS = 2000

/**
 * Checks an address that people are to be sent to: absolute http(s), no user name or password, no fragment.
 * Says nothing of whether it answers, or of where its name leads.
 */
export function checkLaunchAddress(text: string): AddressProblem | undefined {
  const detail = text.slice(0, 200)
  if (text.length > MAX_CHARACTERS) return { code: 'address.too_long', detail: `${text.length} characters` }
  if (/[\s\u0000-\u001f]/.test(text)) return { code: 'address.malformed', detail }
  let url: URL
  try {
    url = new URL(text)
  } catch {
    return { code: 'address.malformed', detail }
  }
  if (url.protocol !== 'http:' && url.protocol !== 'https:') return { code: 'address.scheme', detail: url.protocol }
  if (!/^https?:\/\/[^/]/i.test(text)) return { code: 'address.malformed', detail }
  if (url.username || url.password) return { code: 'address.credentials', detail: url.host }
  if (url.hash) return { code: 'address.fragment', detail: url.hash.slice(0, 80) }
  return undefined
}
