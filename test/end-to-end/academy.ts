import { cpSync, existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import pg from 'pg'
import type { Browser, BrowserContext, Page } from 'playwright-core'
import { inject } from 'vitest'
import { openBrowser, signInBy } from '@bathyscribe/yard/machine/browser'
import { PASSWORD } from '@bathyscribe/yard/academy/academy'
import { startPostgres } from '@bathyscribe/yard/machine/postgres'
import { REPORT } from '@bathyscribe/yard/machine/place'
import { seed } from '@bathyscribe/yard/academy/seed'
import { setupCodeOf, startStack, stopStack } from '@bathyscribe/yard/machine/stack'
import { databaseOn, onServer } from '../template.js'
import type { Place } from './places.js'

export { openBrowser, PASSWORD }

/** What a failed test's evidence is taken from. */
export const openContexts = new Set<BrowserContext>()
export const openAcademies = new Set<string>()
/** What the service refused to the windows, with the request and the answer. */
export const refusals: string[] = []

/** What an academy's folder holds beside its records: a copy of the rest, from when the demo data were complete. */
const KEPT = 'seeded'
const serverSettings = { fsync: 'off', full_page_writes: 'off', synchronous_commit: 'off' }

/** The built product with the demo data, as processes, to oneself. The data are made once for each place; who comes later begins with a copy. */
export async function startDemo(name: string) {
  const place = takePlace(name)
  const { folder } = place
  const running = await startPlace(place).catch((error: unknown) => {
    keepLogs(folder, join(REPORT, `set-up-of-${name}`))
    throw error
  })
  openAcademies.add(folder)
  const stop = async () => {
    openAcademies.delete(folder)
    await stopStack(folder)
    rmSync(join(folder, TAKEN))
  }
  return { ...running, folder, stop }
}

async function startPlace(place: Place) {
  if (existsSync(join(place.folder, KEPT))) await bringBack(place)
  else await seedAt(place)
  return startStack({ ...place, serverSettings, migrated: true })
}

/** What service and tools of an academy said, for whoever looks for the cause. */
export function keepLogs(folder: string, into: string): void {
  mkdirSync(into, { recursive: true })
  for (const log of ['service.log', 'tools.log', 'office.log', 'sign-on.log'])
    if (existsSync(join(folder, log))) cpSync(join(folder, log), join(into, log))
}

const TAKEN = 'taken-by'
function takePlace(name: string): Place {
  for (const place of inject('places')) {
    mkdirSync(place.folder, { recursive: true })
    try {
      writeFileSync(join(place.folder, TAKEN), name, { flag: 'wx' })
      return place
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
    }
  }
  throw new Error('Every place of an academy is taken: several tests broke off before they could give theirs back.')
}

async function seedAt({ folder, ...ports }: Place): Promise<void> {
  const running = await startStack({ folder, ...ports, serverSettings })
  await seed({ ...running, setupCode: setupCodeOf(folder)!, say: () => undefined })
  await stopStack(folder)
  const { url } = await startPostgres(join(folder, 'postgres'), { settings: serverSettings })
  await onServer(databaseOn(url, 'template1'), `create database ${KEPT} template postgres`)
  for (const name of besideRecords(folder)) cpSync(join(folder, name), join(folder, KEPT, name), { recursive: true })
}

async function bringBack({ folder }: Place): Promise<void> {
  const { url } = await startPostgres(join(folder, 'postgres'), { settings: serverSettings })
  const template = databaseOn(url, 'template1')
  await onServer(template, 'drop database postgres with (force)')
  await onServer(template, `create database postgres template ${KEPT}`)
  for (const name of besideRecords(folder)) rmSync(join(folder, name), { recursive: true })
  cpSync(join(folder, KEPT), folder, { recursive: true })
}

function besideRecords(folder: string): string[] {
  return readdirSync(folder).filter((name) => !['postgres', KEPT, TAKEN, 'state.json'].includes(name))
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
