import { SIGN_ON_HANDLE, startPracticeSignOn, type PracticeSignOn } from '@bathyscribe/practice-sign-on'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { closeAfterwards } from './closing.js'
import { browse, type TestAcademy, type Visitor } from './harness.js'

/** The practice identity provider beside an academy, and registered there. @param change what is set otherwise */
export async function withProvider(
  academy: TestAcademy,
  change: Record<string, unknown> = {},
): Promise<PracticeSignOn> {
  const provider = await startPracticeSignOn({ host: '127.0.0.1', port: await freePort(), services: [academy.url] })
  closeAfterwards(() => provider.stop())
  await academy.admin.client.call('addIdentityProvider', { body: { ...settingsOf(provider), ...change } })
  return provider
}

export const settingsOf = ({ issuer, client }: PracticeSignOn) => ({
  handle: SIGN_ON_HANDLE,
  name: 'Skerrow account',
  issuer,
  clientId: client.clientId,
  clientSecret: client.clientSecret,
})

/** Goes where the service sent it, signs in when asked, and stops where it is sent back. @param browser what it keeps of the provider's pages @returns the address of the service */
export async function answerThere(
  { issuer }: PracticeSignOn,
  location: string,
  username: string,
  browser = browse(issuer),
): Promise<URL> {
  let at = new URL(location)
  for (let steps = 0; steps < 12; steps++) {
    if (at.origin !== issuer) return at
    const isPage = at.pathname.startsWith('/interaction/')
    const response = await browser.send(
      at.href,
      isPage ? { method: 'POST', body: new URLSearchParams({ username }) } : {},
    )
    const next = response.headers.get('location')
    if (next === null) throw new Error(`${response.status} at ${at.href}: ${await response.text()}`)
    at = new URL(next, at)
  }
  throw new Error('The provider redirects for ever.')
}

/** What came of a sign-on: where the browser was sent, or the refusal's page in words. */
export interface CameOut {
  status: number
  location: string | null
  says: string
}

export async function comeOut(response: Response): Promise<CameOut> {
  const page = response.status === 303 ? '' : await response.text()
  const says = page.replace(/^[\s\S]*<main>|<\/main>[\s\S]*$/g, '').replace(/<[^>]+>/g, ' ').replace(/\s+/g, ' ').trim() // oxfmt-ignore
  return { status: response.status, location: response.headers.get('location'), says }
}

/** A visitor presses the button on the sign-in page and signs in at the provider. */
export async function signOn(
  visitor: Visitor,
  provider: PracticeSignOn,
  username: string,
  { next = '/', browser }: { next?: string; browser?: Visitor } = {},
): Promise<CameOut> {
  const begun = await visitor.send(`/sign-on/${provider.handle}?next=${encodeURIComponent(next)}`)
  if (begun.status !== 303) return comeOut(begun)
  const back = await answerThere(provider, begun.headers.get('location')!, username, browser)
  return comeOut(await visitor.send(back.pathname + back.search))
}
