import AxeBuilder from '@axe-core/playwright'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { openBrowser, PASSWORD, startDemo, visit } from './academy.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
/** Pages whose addresses are known when their things are there. */
const found: Record<string, string> = {}
beforeAll(async () => {
  demo = await startDemo('accessibility')
  browser = await openBrowser()
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

const COURSE = '/courses/HYD-210'
/** What the technologist and instructors see. */
const PAGES = [
  '/watch',
  '/tools',
  '/tools/register',
  '/tools/register/by-hand',
  '/tools/knotwork-drills',
  '/tools/sextant-bench',
  '/tools/sextant-bench/sheet',
  '/keys',
  '/courses',
  '/courses/new',
  COURSE,
  `${COURSE}/assignments`,
  `${COURSE}/assignments/many`,
  `${COURSE}/things`,
  `${COURSE}/gradebook`,
  `${COURSE}/people`,
  `${COURSE}/menu`,
  `${COURSE}/settings`,
  `${COURSE}/assignments/new`,
  'an assignment',
  'its change',
  'a sounding',
  'two soundings',
  'its reconciliation',
  `${COURSE}/rehearsal`,
  '/waiting-work',
  '/cases',
  'a case',
  '/people',
  'a person',
  '/audit',
  '/soundings',
  'the sweep',
  '/wire',
  '/wire/1',
  '/wire/1/story',
  '/wire/story',
  '/wire/explain',
  '/wire/causes',
  '/glossary',
  '/account',
]
/** What a learner sees. */
const LEARNERS_PAGES = ['/courses', COURSE, 'an assignment', '/account', '/nothing-is-here']
const WIDTHS = [1280, 390]

describe('pages at WCAG 2.1 AA', () => {
  it('a sweep is begun from its page, and ends', async () => {
    const { page } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/soundings`)
    await page.getByRole('button', { name: 'Sweep now' }).click()
    await page.waitForURL(/\/sweeps\//)
    await page.getByRole('heading', { name: 'What is wrong, by cause' }).waitFor()
    await page.getByText('You can leave this page').waitFor({ state: 'detached', timeout: 150_000 })
    found['the sweep'] = new URL(page.url()).pathname
    const { client } = await signIn(demo.url, 'ingrid', PASSWORD)
    const one = await client.call('showAssignment', { params: { assignment: 'HYD-210/soundings-and-datum' } })
    const { items } = await client.call('listSoundings', { query: { assignment: one.id, limit: 2 } })
    const niamh = await client.call('showPerson', { params: { person: 'niamh' } })
    found['an assignment'] = `${COURSE}/assignments/${one.id}`
    found['its change'] = `${COURSE}/assignments/${one.id}/change`
    found['its reconciliation'] = `${COURSE}/gradebook/${one.id}/reconcile`
    found['a sounding'] = `/soundings/${items[0]!.id}`
    found['two soundings'] = `/soundings/${items[0]!.id}/against`
    const missed = (await client.call('listCases', {})).items[0]!
    found['a case'] = `/courses/${missed.course.id}/assignments/${missed.assignment.id}/cases/${missed.person.id}`
    const params = { assignment: one.id, person: 'niamh' }
    const note = { to: 'learner', by: 'page', subject: 'Your score', text: 'It is here now.' } as const
    await client.call('writeInCase', { params, body: note })
    found['a person'] = `/people/${niamh.id}`
  })

  describe.each([
    { who: 'ingrid', pages: PAGES },
    { who: 'niamh', pages: LEARNERS_PAGES },
  ])('of $who, wide and on a phone, in light colours and by their contrast in dark ones', ({ who, pages }) => {
    let page: Page
    beforeAll(async () => {
      ;({ page } = await visit(browser, demo.url, who))
    })
    afterAll(() => page?.context().close())
    it.each(pages)('%s passes axe', async (path) => {
      await page.goto(demo.url + (found[path] ?? path))
      await page.waitForLoadState('networkidle')
      await page.getByRole('heading', { level: 1 }).first().waitFor()
      // What is folded away is looked at, too; of long lists the first.
      await page.locator('#main details').evaluateAll((all) => {
        for (const one of all.slice(0, 6)) (one as HTMLDetailsElement).open = true
      })
      expect(await faultsOf(page)).toEqual([])
    })
  })

  it.each(['/sign-in', '/welcome'])('%s passes axe for whoever is not signed in', async (path) => {
    const page = await (await browser.newContext()).newPage()
    await page.goto(demo.url + path)
    await page.getByRole('heading', { level: 1 }).first().waitFor()
    expect(await faultsOf(page)).toEqual([])
    await page.context().close()
  })
})

const HEIGHT = 800
/** The innermost of what stands out of the window furthest; asked inside the page. */
function widest(): string {
  const right = (one: Element) => one.getBoundingClientRect().right
  const scrolls = (one: Element) => one.closest('.panel, .table-wrap, .nav-tabs') !== null
  const out = [...document.querySelectorAll('main *')].filter((one) => right(one) > innerWidth + 1 && !scrolls(one))
  const [first] = out.sort((a, b) => right(b) - right(a) || (a.contains(b) ? 1 : -1))
  return first ? `${first.tagName} ${first.className} “${first.textContent.trim().slice(0, 40)}”` : 'what is not known'
}
/** What is wrong with a page as it stands, at each width: by every rule in light colours, and by contrast in dark ones, for nothing else differs there; and whether it is wider than the window. */
async function faultsOf(page: Page): Promise<string[]> {
  // No page of these has a frame of another site, for which a second window would gather what was found in each.
  // Of what passes nothing is asked: to find a name for each of its elements took longer than the rules.
  const axe = () =>
    new AxeBuilder({ page })
      .setLegacyMode()
      .exclude('iframe')
      .options({ resultTypes: ['violations'] })
  const faults: string[] = []
  const look = async (as: string, builder: AxeBuilder) => {
    for (const { id, nodes } of (await builder.analyze()).violations)
      faults.push(`${as}, ${id}: ${nodes.map((node) => node.target.join(' ')).slice(0, 3).join('; ')}`) // oxfmt-ignore
  }
  for (const width of WIDTHS) {
    await page.setViewportSize({ width, height: HEIGHT })
    // Colours that are on their way to others are those of neither.
    await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' })
    await page.waitForFunction(() => document.documentElement.dataset['bsTheme'] === 'light')
    await look(`${width} light`, axe().withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa']))
    await page.emulateMedia({ colorScheme: 'dark', reducedMotion: 'reduce' })
    await page.waitForFunction(() => document.documentElement.dataset['bsTheme'] === 'dark')
    await look(`${width} dark`, axe().withRules(['color-contrast']))
    const wide = await page.evaluate(() => document.documentElement.scrollWidth)
    if (wide > width) faults.push(`${width}: the page is ${wide} wide, by ${await page.evaluate(widest)}`)
  }
  return faults
}
