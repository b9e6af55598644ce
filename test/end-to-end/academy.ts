import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import pg from 'pg'
import type { Browser, BrowserContext, Page } from 'playwright-core'
import { openBrowser, signInBy } from '../../scripts/lib/browser.mjs'
import { PASSWORD } from '../../scripts/lib/academy.mjs'
import { startPostgres } from '../../scripts/lib/postgres.mjs'
import { RUN } from '../../scripts/lib/prepare.mjs'
import { seed } from '../../scripts/lib/seed.mjs'
import { setupCodeOf, startStack, stopStack } from '../../scripts/lib/stack.mjs'

export { openBrowser, PASSWORD }

/** What a failed test's evidence is taken from. */
export const openContexts = new Set<BrowserContext>()
export const openAcademies = new Set<string>()
/** What the service refused to the windows, with the request and the answer. */
export const refusals: string[] = []

/** The built product with the demo data, as processes on free ports. */
export async function startDemo(name: string) {
  const folder = join(RUN, `e2e-${name}-${process.pid}`)
  mkdirSync(folder, { recursive: true })
  const running = await startStack({ folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } })
  await seed({ ...running, setupCode: setupCodeOf(folder)!, say: () => undefined })
  openAcademies.add(folder)
  const stop = () => {
    openAcademies.delete(folder)
    return stopStack(folder, { remove: true })
  }
  return { ...running, folder, stop }
}

/** Asks the records of a running demo themselves, for what no call can bring about, such as hours that went by. */
export async function recordsOf<T>(demo: { folder: string }, ask: (records: pg.Client) => Promise<T>): Promise<T> {
  const { url } = await startPostgres(join(demo.folder, 'postgres'))
  const records = new pg.Client({ connectionString: url })
  await records.connect()
  try {
    return await ask(records)
  } finally {
    await records.end()
  }
}

/** A person's own browser window, signed in. Whatever the console complains of is a fault. */
export async function visit(
  browser: Browser,
  url: string,
  username: string,
): Promise<{ page: Page; complaints: string[] }> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  // A machine that others use, too, may be slow; what never comes still fails.
  context.setDefaultTimeout(60_000)
  openContexts.add(context)
  context.on('close', () => openContexts.delete(context))
  await context.tracing.start()
  const page = await context.newPage()
  const complaints: string[] = []
  page.on('pageerror', (error) => complaints.push(error.message))
  page.on('console', (message) => {
    if (message.type() === 'error' && !/^Failed to load resource/.test(message.text())) complaints.push(message.text())
  })
  // What the browser only calls a failed resource may be refused by the service on purpose; a fault of its own never is.
  page.on('response', (response) => {
    if (!response.url().startsWith(url) || response.status() < 400) return
    const request = response.request()
    const asked = `${username}: ${request.method()} ${response.url()} ${request.postData()?.slice(0, 2000) ?? ''}`
    void response
      .text()
      .catch(() => '')
      .then((answer) => refusals.push(`${asked}\n  ${response.status()} ${answer.slice(0, 2000)}`))
    if (response.status() >= 500) complaints.push(`${response.status()} ${response.url()}`)
  })
  await signInBy(page, url, username, PASSWORD)
  return { page, complaints }
}
