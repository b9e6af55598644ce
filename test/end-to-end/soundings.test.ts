import { existsSync, mkdtempSync, readdirSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { SweepDetail, SweepLink, Tool } from '@bathyscribe/contract'
import { CREDENTIALS } from '@bathyscribe/practice-tools'
import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, PASSWORD, startDemo, visit } from './academy.js'
import { commandOf, type Done } from './command.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
const home = mkdtempSync(join(tmpdir(), 'bathyscribe-soundings-'))
beforeAll(async () => {
  demo = await startDemo('soundings')
  browser = await openBrowser()
  await run(['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], `${PASSWORD}\n`)
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

const run = (args: string[], input = '') => commandOf({ url: demo.url, home }, args, input)
async function json<T>(args: string[], input = ''): Promise<T> {
  const done = await run([...args, '--json'], input)
  try {
    return JSON.parse(done.stdout) as T
  } catch {
    throw new Error(`${args.join(' ')} printed no JSON: ${done.stdout}${done.stderr}`)
  }
}

describe('a sweep over the whole academy, twice', () => {
  const linksOf = async (sweep: string, only: string) =>
    (await json<{ items: SweepLink[] }>(['sounding', 'sweep-show', sweep, '--only', only])).items

  it('says of the second that exactly what was broken in between is newly broken, and then fixed', async () => {
    const first = await json<SweepDetail>(['sounding', 'sweep'])
    expect(first.state).toBe('done')
    const passed = [...(await linksOf(first.id, 'pass')), ...(await linksOf(first.id, 'warn'))]
    const affected = passed.filter((link) => link.tool.slug === 'plotting-table').map((link) => link.assignment.id)
    expect(affected.length).toBeGreaterThan(0)

    await run(['tool', 'change', 'plotting-table', '--secret-file', '-'], 'not-what-was-agreed\n')
    const file = join(home, 'sweep.xml')
    const swept = await run(['sounding', 'sweep', '--fail-on', 'newly', '--junit', file, '--json'])
    expect(swept.status).toBe(1)
    const second = JSON.parse(swept.stdout) as SweepDetail
    expect(second.before).toBe(first.id)
    const broken = await linksOf(second.id, 'newly_broken')
    expect(broken.map((link) => link.assignment.id).sort()).toEqual([...affected].sort())
    expect(await linksOf(second.id, 'fixed')).toEqual([])
    for (const { cause } of broken) expect(cause).toMatch(/shared secret is wrong/)
    expect(second.causes.filter((cause) => cause.newly > 0)).toHaveLength(1)
    expect(readFileSync(file, 'utf8')).toContain('shared secret is wrong')

    await run(['tool', 'change', 'plotting-table', '--secret-file', '-'], `${secretOf('plotting')}\n`)
    const third = await json<SweepDetail>(['sounding', 'sweep'])
    expect((await linksOf(third.id, 'fixed')).map((link) => link.assignment.id).sort()).toEqual([...affected].sort())
    expect(await linksOf(third.id, 'newly_broken')).toEqual([])
  })
})

const secretOf = (name: 'plotting' | 'knotwork') => CREDENTIALS[name].sharedSecret

describe('demo faults', () => {
  const C = 'FLT-100'
  const checked = (n: number) => run(['demo', 'faults', String(n), '--check', '--json'])
  const tool = async (n: number) => (await json<{ tool: string }>(['demo', 'faults', String(n)])).tool

  it('sets up a dozen broken links, each with what is reported of it', async () => {
    expect((await run(['demo', 'faults'])).stderr).toContain('--begin')
    const { items } = await json<{ items: { fixed: boolean; symptom: string }[] }>(['demo', 'faults', '--begin'])
    expect(items).toHaveLength(12)
    expect(items.every((one) => !one.fixed && one.symptom.length > 30)).toBe(true)
    expect((await run(['demo', 'faults', '13'])).status).toBe(2)
  })

  it('knows that all are broken still, and names causes that are true', async () => {
    const done = await run(['demo', 'faults', '--check', '--json'])
    expect(done.status).toBe(1)
    const { items } = JSON.parse(done.stdout) as { items: { name: string; fixed: boolean; statement: string }[] }
    const told = Object.fromEntries(items.map((one) => [one.name, `${one.fixed} ${one.statement}`]))
    const causes: Record<string, RegExp> = {
      draft: /cannot see it/,
      group: /for nobody/,
      suspended: /not enabled/,
      address: /answers 404 at .*lauch/,
      secret: /shared secret is wrong/,
      swapped: /are swapped/,
      frame: /refuses frames/,
      content: /does not show what is expected/,
      tester: /No pilot/,
      redirect: /which is not registered/,
      scope: /its registration returns none/,
      keyset: /127\.0\.0\.1:\d+\/\S+ answered 404/,
    }
    expect(Object.keys(told).sort()).toEqual(Object.keys(causes).sort())
    for (const [name, cause] of Object.entries(causes))
      expect(told[name], name).toMatch(new RegExp(`^false .*${cause.source}`))
  })

  it.each<[number, string, () => Promise<Done>]>([
    [1, 'published', () => run(['assignment', 'publish', `${C}/whipping-and-seizing`])],
    [2, 'for everyone', () => run(['assignment', 'change', `${C}/heaving-line-relay`, '--everyone'])],
    [3, 'enabled', async () => run(['tool', 'enable', await tool(3)])],
    [4, 'its address', async () => run(['tool', 'change', await tool(4), '--launch-url', `${demo.knotwork}/launch`])],
    [5, 'its secret', async () => run(['tool', 'change', await tool(5), '--secret-file', '-'], secretOf('knotwork'))],
    [6, 'key and secret', async () => run(['tool', 'change', await tool(6), '--key', 'skerrow-knots', '--secret-file', '-'], secretOf('knotwork'))], // oxfmt-ignore
    [7, 'a window', () => run(['assignment', 'change', `${C}/splices-by-pictures`, '--open', 'window'])],
    [8, 'its content', () => run(['assignment', 'change', `${C}/fronts-and-their-clouds`, '--custom', 'drill=clouds'])],
    [
      9,
      'a pilot',
      async () => run(['sounding', 'run', `${C}/night-watch-knots`, '--pilot', await pilot(), '--agreed']),
    ],
    [10, 'redirect', async () => run(['tool', 'change', await tool(10), '--redirect-uri', `${demo.sextant}/launch`])],
    [11, 'scopes', async () => run(['tool', 'change', await tool(11), ...(await scopesOf('sextant-bench'))])],
    [12, 'keyset', async () => run(['tool', 'change', await tool(12), '--keyset-url', `${demo.sextant}/keyset`])],
  ])('fault %i is fixed by command line alone, and is known to be: %s', async (n, _, mend) => {
    expect((await checked(n)).status).toBe(1)
    const done = await mend()
    expect(done.status, done.stderr).toBe(0)
    const after = await checked(n)
    expect(after.status, after.stdout).toBe(0)
    expect(JSON.parse(after.stdout)).toMatchObject({ fixed: true })
  })

  it('says that all twelve are fixed, breaks them again, and takes them out of sight', async () => {
    expect((await run(['demo', 'faults'])).stdout).toContain('12 of 12 fixed')
    expect((await run(['demo', 'faults', '--begin'])).stdout).toContain('0 of 12 fixed')
    expect((await run(['demo', 'faults', '--end'])).stdout).toContain('12 set-ups')
    const { items } = await json<{ items: { state: string }[] }>(['assignment', 'list', C])
    expect(items.every((one) => one.state === 'draft')).toBe(true)
  })

  const pilot = async () =>
    (await json<{ items: { role: string; person: { username: string } }[] }>(['course', 'people', C])).items.find(
      (one) => one.role === 'learner',
    )!.person.username
  const scopesOf = async (slug: string) =>
    (await json<Tool>(['tool', 'show', slug])).scopes.flatMap((scope) => ['--scope', scope])
})

describe('a sounding through a browser', () => {
  it('is run, looked at, compared and pictured by command line', async () => {
    const folder = join(home, 'pictures')
    const one = await json<{ id: string; verdict: string }>([
      'sounding',
      'run',
      'MET-130/clouds-and-fronts',
      '--browser',
      '--plain',
    ])
    expect(one.verdict).toBe('pass')
    const written = await json<{ files: string[] }>(['sounding', 'pictures', one.id, folder])
    expect(readdirSync(folder)).toHaveLength(2)
    for (const file of written.files) expect(existsSync(file)).toBe(true)
    expect((await run(['sounding', 'compare', one.id])).stdout).toMatch(/found the same both times/)
    expect((await run(['assignment', 'expect', 'MET-130/clouds-and-fronts', '--learn'])).stdout).toMatch(
      /learned from sounding/,
    )
    expect((await run(['rehearse', 'show', 'MET-130'])).stdout).toContain('Clouds and fronts')
    expect((await run(['rehearse', 'open', 'MET-130/clouds-and-fronts'])).stdout).toMatch(/\/work\?as=test_learner$/m)
    expect((await run(['rehearse', 'clear', 'MET-130'])).status).toBe(1)
    expect((await run(['rehearse', 'clear', 'MET-130', '--yes'])).status).toBe(0)
  })

  it('is begun on the assignment’s page, and tells its story with pictures', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await page.goto(`${demo.url}/courses/HYD-210/assignments`)
    await page.getByRole('link', { name: 'Soundings and datum' }).click()
    await page.getByRole('button', { name: 'More' }).click()
    await page.getByText('A sounding with options …').click()
    await page.getByLabel('Followed by').selectOption('browser')
    await page.getByRole('button', { name: 'Begin' }).click()
    await page.getByRole('link', { name: 'All that it finds' }).click()
    await page.getByRole('heading', { name: 'What the browser showed' }).waitFor()
    await page.getByText('Proven all the way').waitFor()
    const pictures = page.getByRole('img', { name: /the tool’s page in our browser/ })
    await expect.poll(() => pictures.count()).toBe(2)
    expect(await pictures.first().evaluate((one) => (one as HTMLImageElement).naturalWidth)).toBe(1280)
    await page.getByRole('link', { name: 'Against the last that passed' }).click()
    await page.getByRole('heading', { name: 'Two soundings of Soundings and datum' }).waitFor()
    expect(complaints).toEqual([])
  })

  it('waits for a person, who works as the test learner in a rehearsal, and goes on by itself', async () => {
    await run(['tool', 'register', '--name', 'Drills by hand', '--key', 'skerrow-knots', '--secret-file', '-', '--launch-url', `${demo.knotwork}/launch`, '--course', 'HYD-210', '--second', 'by hand'], secretOf('knotwork')) // oxfmt-ignore
    await run(['assignment', 'create', 'HYD-210', '--title', 'By hand', '--tool', 'drills-by-hand', '--points', '10', '--category', 'Drills', '--publish']) // oxfmt-ignore
    const { id } = await json<{ id: string }>([
      'sounding',
      'run',
      'HYD-210/by-hand',
      '--wait',
      '5',
      '--plain',
      '--detach',
    ])
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await page.goto(`${demo.url}/soundings/${id}`)
    await page.getByText('It waits for a person.').waitFor()
    const [work] = await Promise.all([
      page.waitForEvent('popup'),
      page.getByRole('link', { name: 'Open it as the test learner' }).click(),
    ])
    await work.getByText('Rehearsal as the test learner').waitFor()
    const drill = work.frameLocator('.stage-frame iframe').frameLocator('iframe')
    for (let i = 0; i < 3; i++) await drill.locator(`input[name="q${i}"]`).nth(i).check()
    await drill.getByRole('button', { name: 'Hand in' }).click()
    await page.getByText('Proven all the way').waitFor()
    await work.getByRole('link', { name: 'Rehearsal of the whole course' }).click()
    await work.getByRole('heading', { name: 'HYD 210 Hydrographic Surveying' }).waitFor()
    await work.getByRole('button', { name: 'Clear its traces' }).first().click()
    await work.getByRole('dialog').getByRole('button', { name: 'Clear its traces' }).click()
    await expect.poll(() => work.getByRole('button', { name: 'Clear its traces' }).count(), { timeout: 30_000 }).toBe(0)
    expect(complaints).toEqual([])
  })
})
