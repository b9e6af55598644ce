import { Problem } from '../result/index.js'
/** Why an address cannot be launched, or (`secure: false`) what is doubtful about it. */
export type AddressProblem = Problem<
  'address.malformed' | 'address.scheme' | 'address.credentials' | 'address.fragment' | 'address.too_long'
>

const MAX_CHARACTERS = 2000

/**
 * Checks an address that people are to be sent to: absolute http(s), no user name or password, no fragment.
 * Says nothing of whether it answers, or of where its name leads.
 */
export function checkLaunchAddress(text: string): AddressProblem | undefined {
  const detail = text.slice(0, 200)
  if (text.length > MAX_CHARACTERS) return new Problem('address.too_long', `${text.length} characters`)
  if (/[\s\u0000-\u001f]/.test(text)) return new Problem('address.malformed', detail)
  let url: URL
  try {
    url = new URL(text)
  } catch {
    return new Problem('address.malformed', detail)
  }
  if (url.protocol !== 'http:' && url.protocol !== 'https:') return new Problem('address.scheme', url.protocol)
  if (!/^https?:\/\/[^/]/i.test(text)) return new Problem('address.malformed', detail)
  if (url.username || url.password) return new Problem('address.credentials', url.host)
  if (url.hash) return new Problem('address.fragment', url.hash.slice(0, 80))
  return undefined
}
