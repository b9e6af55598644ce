import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, openContexts, PASSWORD, recordsOf, startDemo, visit } from './academy.js'
import { commandOf } from './command.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
const home = mkdtempSync(join(tmpdir(), 'bathyscribe-sign-on-'))
beforeAll(async () => {
  demo = await startDemo('sign-on')
  browser = await openBrowser()
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
  rmSync(home, { recursive: true, force: true })
})

const practise = (form: Record<string, string>) =>
  fetch(`${demo.signOn}/practice`, { method: 'POST', body: new URLSearchParams(form) })

/** A browser of somebody's own, at the sign-in page. */
async function stranger(): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  context.setDefaultTimeout(60_000)
  openContexts.add(context)
  context.on('close', () => openContexts.delete(context))
  const page = await context.newPage()
  await page.goto(`${demo.url}/courses`)
  return page
}
async function signInThere(page: Page, account: string): Promise<void> {
  await page.getByRole('heading', { name: 'Skerrow accounts' }).waitFor()
  await page.getByLabel('Account').fill(account)
  await page.getByRole('button', { name: 'Sign in' }).click()
}

describe('signing in by an identity provider, in Chromium', () => {
  it('somebody of the roster signs in with their account, is where they wanted to be, and signs out there, too', async () => {
    const page = await stranger()
    await page.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
    await signInThere(page, 'niamh')
    await page.waitForURL(`${demo.url}/courses`)
    await page.getByRole('link', { name: 'HYD 210' }).waitFor()
    await page.getByRole('button', { name: 'Sign out' }).click()
    await page.waitForURL(`${demo.signOn}/**`)
    await page.getByRole('button', { name: 'Yes, sign me out' }).click()
    await page.waitForURL(`${demo.url}/sign-in`)
    await page.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
    await page.getByRole('heading', { name: 'Skerrow accounts' }).waitFor()
  })

  it('who is not known, or not verified, is told why, and how to go on', async () => {
    for (const [account, words] of [
      ['sunniva', 'There is no account here for you.'],
      ['eskil', 'has not verified your email address'],
      ['ingrid', 'There is no account here for you.'],
    ] as const) {
      const page = await stranger()
      await page.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
      await signInThere(page, account)
      await page.getByText(words).waitFor()
      await page.getByRole('link', { name: 'Back to the sign-in page' }).click()
      await page.getByLabel('User name').waitFor()
    }
  })

  it('an administrator ties the account once, signs in by it, and confirms there what needs it', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/account`)
    await page.getByRole('button', { name: 'Tie Skerrow account' }).click()
    await signInThere(page, 'ingrid')
    await page.getByText('tied by hand').waitFor()
    await page.goto(`${demo.url}/`)
    await page.waitForURL('**/watch')
    expect(complaints).toEqual([])

    const later = await stranger()
    await later.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
    await signInThere(later, 'ingrid')
    await later.waitForURL(`${demo.url}/courses`)
    // An hour goes by: it is no proof any more of who sits there.
    await recordsOf(demo, (records) =>
      records.query(`update session set confirmed_at = now() - interval '1 hour' where provider_id is not null`),
    )
    await later.goto(`${demo.url}/account`)
    await later.getByLabel('Name of a new token').fill('a program')
    await later.getByRole('button', { name: 'Make a token' }).click()
    const [window] = await Promise.all([
      later.waitForEvent('popup'),
      later.getByRole('button', { name: 'Sign in with Skerrow account again' }).click(),
    ])
    await signInThere(window, 'ingrid')
    await later.getByText('The token is made.').waitFor()
    await expect.poll(() => window.isClosed()).toBe(true)
  })
})

describe('a provider, in the console and on the command line', () => {
  it('is checked, switched off and on; who was signed in by it is not any more', async () => {
    const niamh = await stranger()
    await niamh.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
    await signInThere(niamh, 'niamh')
    await niamh.getByRole('link', { name: 'HYD 210' }).waitFor()

    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.getByRole('link', { name: 'People', exact: true }).click()
    await page.getByRole('link', { name: 'Identity providers' }).click()
    await page.getByRole('button', { name: 'Check' }).click()
    await page.getByText('client ID and secret are known there').waitFor()
    await page.getByRole('button', { name: 'Change' }).click()
    await page.getByLabel('People may sign in by it').uncheck()
    await page.getByRole('button', { name: 'Save' }).click()
    await page.getByText('switched off').waitFor()
    await niamh.goto(`${demo.url}/courses`)
    await niamh.getByLabel('User name').waitFor()
    expect(await niamh.getByRole('link', { name: /Skerrow account/ }).count()).toBe(0)

    const run = (...args: string[]) => commandOf({ url: demo.url, home }, args)
    const signIn = await commandOf({ url: demo.url, home }, ['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], PASSWORD) // oxfmt-ignore
    expect(signIn.status).toBe(0)
    expect((await run('sign-on', 'list')).stdout).toMatch(/skerrow .* off /)
    expect((await run('sign-on', 'change', 'skerrow', '--on')).stdout).toMatch(/sign-in +on/)
    await page.getByText('people may sign in by it').waitFor()
    expect(complaints).toEqual([])
  })

  it('that is away or has other keys is no end of anything', async () => {
    await practise({ away: 'true' })
    const page = await stranger()
    await page.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
    await page.getByText('The provider is closed.').waitFor()
    await practise({ away: 'false', rotate: 'true' })
    await page.goto(`${demo.url}/courses`)
    await page.getByRole('link', { name: 'Sign in with Skerrow account' }).click()
    await signInThere(page, 'niamh')
    await page.getByRole('link', { name: 'HYD 210' }).waitFor()
  })
})
