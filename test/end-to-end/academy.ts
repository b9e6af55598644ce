import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { Browser, Page } from 'playwright-core'
import { openBrowser, signInBy } from '../../scripts/lib/browser.mjs'
import { PASSWORD } from '../../scripts/lib/academy.mjs'
import { RUN } from '../../scripts/lib/prepare.mjs'
import { seed } from '../../scripts/lib/seed.mjs'
import { setupCodeOf, startStack, stopStack } from '../../scripts/lib/stack.mjs'

export { openBrowser, PASSWORD }

/** The built product with the demo data, as processes on free ports. */
export async function startDemo(name: string) {
  const folder = join(RUN, `e2e-${name}-${process.pid}`)
  mkdirSync(folder, { recursive: true })
  const running = await startStack({ folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } })
  await seed({ ...running, setupCode: setupCodeOf(folder)!, say: () => undefined })
  return { ...running, folder, stop: () => stopStack(folder, { remove: true }) }
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
  const page = await context.newPage()
  const complaints: string[] = []
  page.on('pageerror', (error) => complaints.push(error.message))
  page.on('console', (message) => {
    if (message.type() === 'error' && !/^Failed to load resource/.test(message.text())) complaints.push(message.text())
  })
  await signInBy(page, url, username, PASSWORD)
  return { page, complaints }
}
