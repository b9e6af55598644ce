import { createClient, type Client } from '@bathyscribe/contract'
import { EXIT, Failure } from './failure.js'
import { readSignIn } from './sign-in-file.js'
import { terminal } from './terminal.js'

/** Options that every command takes. */
export interface GlobalOptions {
  url?: string
  json?: boolean
  quiet?: boolean
}

export const DEFAULT_URL = 'http://localhost:8080'

export function serviceUrl(options: GlobalOptions): string {
  let url = options.url ?? terminal().environment['BATHYSCRIBE_URL'] ?? readSignIn()?.url ?? DEFAULT_URL
  while (url.endsWith('/')) url = url.slice(0, -1)
  return url
}

/** A client that speaks as the person who is signed in. @throws Failure when nobody is */
export function connect(options: GlobalOptions): Client {
  const url = serviceUrl(options)
  const token = terminal().environment['BATHYSCRIBE_TOKEN'] ?? kept(url)
  if (!token)
    throw new Failure(
      'You are not signed in.',
      EXIT.refused,
      'Sign in with `bathyscribe person sign-in`, or set BATHYSCRIBE_TOKEN.',
    )
  return createClient({ baseUrl: url, headers: () => ({ authorization: `Bearer ${token}` }) })
}

/** The kept token goes to the service it was made by, and to no other. */
function kept(url: string): string | undefined {
  const note = readSignIn()
  return note?.url === url ? note.token : undefined
}

/** A client for the few calls that need nobody to be signed in. */
export function connectAnonymously(
  options: GlobalOptions,
  headers: () => Record<string, string> = () => ({}),
  send?: typeof fetch,
): Client {
  return createClient({ baseUrl: serviceUrl(options), headers, ...(send && { fetch: send }) })
}
