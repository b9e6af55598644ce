import AxeBuilder from '@axe-core/playwright'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, startDemo, visit } from './academy.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
/** Where the sweep that the first test begins is looked at. */
let sweep = ''
beforeAll(async () => {
  demo = await startDemo('accessibility')
  browser = await openBrowser()
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

const COURSE = '/courses/HYD-210'
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
  '/soundings',
  'the sweep',
  '/wire',
  '/wire/1',
  '/wire/1/story',
  '/wire/story',
  '/wire/explain',
  '/account',
]

describe('pages at WCAG 2.1 AA', () => {
  it('a sweep is begun from its page, and ends', async () => {
    const { page } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/soundings`)
    await page.getByRole('button', { name: 'Sweep now' }).click()
    await page.waitForURL(/\/sweeps\//)
    await page.getByRole('heading', { name: 'What is wrong, by cause' }).waitFor()
    await page.getByText('You can leave this page').waitFor({ state: 'detached', timeout: 150_000 })
    sweep = new URL(page.url()).pathname
  })

  describe('in light colours, and by their contrast in dark ones', () => {
    let page: Page
    beforeAll(async () => {
      ;({ page } = await visit(browser, demo.url, 'ingrid'))
    })
    afterAll(() => page?.context().close())
    // No page of these has a frame of another site, for which a second window would gather what was found in each.
    // Of what passes nothing is asked: to find a name for each of its elements took longer than the rules.
    const axe = () => new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] })
    const faults = async (builder: AxeBuilder) =>
      (await builder.analyze()).violations.map(
        ({ id, nodes }) =>
          `${id}: ${nodes
            .map((node) => node.target.join(' '))
            .slice(0, 3)
            .join('; ')}`,
      )

    it.each(PAGES)('%s passes axe', async (path) => {
      // Colours that are on their way to others are those of neither.
      await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' })
      await page.goto(demo.url + (path === 'the sweep' ? sweep : path))
      await page.waitForLoadState('networkidle')
      await page.getByRole('heading', { level: 1 }).first().waitFor()
      expect(await faults(axe().withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa']))).toEqual([])
      // Nothing but colours differs in the dark.
      await page.emulateMedia({ colorScheme: 'dark', reducedMotion: 'reduce' })
      await page.waitForFunction(() => document.documentElement.dataset['bsTheme'] === 'dark')
      expect(await faults(axe().withRules(['color-contrast']))).toEqual([])
    })
  })
})
