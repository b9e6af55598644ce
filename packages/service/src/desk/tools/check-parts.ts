import { found, type Found } from '@bathyscribe/core/checks'
import { cookiesLostInFrame, travelsOpenly } from '@bathyscribe/core/links'
import type { Context } from '../context.js'

const COOKIES_NAMED = 5

/** @param what the address in a sentence */
export function checkScheme(check: 'address' | 'initiation address', url: URL, what: string): Found {
  if (travelsOpenly(url.href)) return found(check, 'open', { what })
  return found(check, url.protocol === 'https:' ? 'secure' : 'on_this_machine', { what })
}

/** @param setCookies lines of `Set-Cookie` that a launch in a frame would meet */
export function checkCookies(setCookies: readonly string[], { settings }: Context): Found[] {
  if (setCookies.length === 0) return []
  const names = cookiesLostInFrame(setCookies).slice(0, COOKIES_NAMED)
  if (names.length === 0) return [found('cookies', 'survive', {})]
  return [found('cookies', 'lost', { names, secure: settings.publicUrl.startsWith('https:') })]
}
