import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import type { Browser, FrameLocator, Locator, Page } from 'playwright-core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { openBrowser, openContexts, PASSWORD } from './academy.js'

const DOCUMENT = readFileSync(fileURLToPath(new URL('../../docs/first-hour.md', import.meta.url)), 'utf8')
const SCRIPT = fileURLToPath(new URL('../../scripts/demo.mjs', import.meta.url))

/** Where things are on the page of one who reads it, and where they are here. */
interface Place {
  url: string
  knotwork: string
  sextant: string
  plotting: string
  setupCode: string
}
const SAID = { url: 'http://localhost:8080', knotwork: 'http://127.0.0.1:9101', sextant: 'http://127.0.0.1:9104', plotting: 'http://127.0.0.1:9105' } as const // oxfmt-ignore

interface Step {
  chapter: string
  text: string
  /** What is to be pasted. */
  block: string
}

/** The numbered steps as they stand in the document, in order, with what stands below them. */
function stepsOf(document: string): Step[] {
  const steps: Step[] = []
  let chapter = ''
  let inBlock = false
  for (const line of document.split('\n')) {
    const step = steps.at(-1)
    const numbered = /^\d+\. (.+)$/.exec(line)
    if (/^ {3,4}```$/.test(line)) inBlock = !inBlock
    else if (inBlock && step) step.block += `${line.replace(/^ {3,4}/, '')}\n`
    else if (line.startsWith('## ')) chapter = line.slice(3)
    else if (numbered) steps.push({ chapter, text: numbered[1]!, block: '' })
  }
  return steps
}

let place: Place
let browser: Browser
let page: Page

const demo = (...args: string[]) => {
  const done = spawnSync(process.execPath, [SCRIPT, '--empty', ...args], { encoding: 'utf8' })
  expect(done.status, done.stderr).toBe(0)
  return done.stdout
}
beforeAll(async () => {
  // The command of the document, on free ports and for a program.
  expect(DOCUMENT).toContain('npm run demo -- --empty')
  place = JSON.parse(demo('--fresh', '--detach', '--port', '0', '--json')) as Place
  browser = await openBrowser()
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  context.setDefaultTimeout(60_000)
  openContexts.add(context)
  page = await context.newPage()
})
afterAll(async () => {
  await browser?.close()
  demo('--stop')
})

const here = (text: string) =>
  (Object.keys(SAID) as (keyof typeof SAID)[]).reduce((all, name) => all.replaceAll(SAID[name], place[name]), text)
const tool = (): FrameLocator => page.frameLocator('iframe').frameLocator('iframe')
const pressable = (within: Page | FrameLocator, name: string): Locator =>
  within
    .getByRole('button', { name, exact: true })
    .or(within.getByRole('link', { name, exact: true }))
    .first()
const field = (label: string): Locator => page.getByLabel(label, { exact: true })

/** Every form that a step has, and what one does by it. A step that has none of them is no step that anybody can follow. */
const DOES: readonly (readonly [RegExp, (said: string[], step: Step) => Promise<unknown>])[] = [
  [/^Open `([^`]+)`\./, ([address]) => page.goto(here(address!))],
  [/^Type the set-up code into \*\*([^*]+)\*\*\./, ([label]) => field(label!).fill(place.setupCode)],
  [/^Type `([^`]+)` into \*\*([^*]+)\*\*\./, ([text, label]) => field(label!).fill(text!)],
  [/^Paste this into \*\*([^*]+)\*\*:$/, ([label], { block }) => paste(field(label!), here(block.trim()))],
  [/^Press \*\*([^*]+)\*\*\./, ([name]) => pressable(page, name!).click()],
  [/^Choose \*\*([^*]+)\*\* in \*\*([^*]+)\*\*\./, ([option, label]) => field(label!).selectOption({ label: option! })],
  [/^Wait until the page says “([^”]+)”\./, ([text]) => page.getByText(text!).first().waitFor()],
  [/^Wait until the page says “([^”]+\.)”/, ([text]) => page.getByText(text!).first().waitFor()],
  [/^In the tool's frame, press \*\*([^*]+)\*\*\./, ([name]) => pressable(tool(), name!).click()],
  [/^In the tool's frame, type `([^`]+)` into \*\*([^*]+)\*\*\./, ([text, label]) => tool().getByLabel(label!).fill(text!)],
  [/^In the tool's frame, choose \*\*([^*]+)\*\* in the question “([^”]+)”\./, ([answer, question]) => tool().getByRole('group', { name: question! }).getByLabel(answer!).check()],
] // oxfmt-ignore

/** As keys and a clipboard do it, with what a paste tells the page. */
async function paste(into: Locator, text: string): Promise<void> {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write'], { origin: place.url })
  await into.focus()
  await page.evaluate((copied) => navigator.clipboard.writeText(copied), text)
  await page.keyboard.press('Control+V')
}

it('followed word by word it ends with ten proven assignments', async () => {
  const steps = stepsOf(DOCUMENT)
  expect(steps.length).toBeGreaterThan(50)
  for (const [i, step] of steps.entries()) {
    const where = `step ${i + 1}, “${step.chapter}”: ${step.text}`
    const found = DOES.map(([form, act]) => ({ said: form.exec(step.text), act })).find(({ said }) => said !== null)
    expect(found, `nobody can follow ${where}`).toBeDefined()
    await found!.act(found!.said!.slice(1), step).catch((error: unknown) => {
      throw new Error(`${where}\n${(error as Error).message}`)
    })
  }
  const { client } = await signIn(place.url, 'ingrid', PASSWORD)
  const { items } = await client.call('listAssignments', { params: { course: 'HYD-210' } })
  expect(items.map((one) => one.title)).toHaveLength(10)
  for (const one of items) expect(one.proof.map((mark) => mark.state), one.title).toEqual(Array.from({ length: 6 }, () => 'proven')) // oxfmt-ignore
})

it('goes on where one was: the empty service is empty only the first time', () => {
  const again = JSON.parse(demo('--detach', '--json')) as { url: string; setupCode: string | null }
  expect(again).toMatchObject({ url: place.url, setupCode: null })
})
