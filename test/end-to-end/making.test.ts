import type { Browser, FrameLocator, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { openBrowser, PASSWORD, startDemo, visit } from './academy.js'
import { commandOf } from './command.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
let token = ''
beforeAll(async () => {
  demo = await startDemo('making')
  browser = await openBrowser()
  const { client } = await signIn(demo.url, 'tomas', PASSWORD)
  token = (await client.call('createToken', { body: { name: 'e2e', scopes: ['read', 'teach'] } })).token
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

async function cli(args: string[], input = ''): Promise<{ status: number | null; output: string }> {
  const signedIn = { BATHYSCRIBE_TOKEN: token }
  const { status, stdout, stderr } = await commandOf({ url: demo.url, home: demo.folder }, args, input, signedIn)
  return { status, output: stdout + stderr }
}

const tool = (page: Page): FrameLocator => page.frameLocator('iframe').frameLocator('iframe')
async function begin(page: Page, toolName: string) {
  await page.goto(`${demo.url}/courses/NAV-120/assignments/new`)
  const again = page.getByRole('button', { name: 'Start over' })
  if (await again.isVisible().catch(() => false)) await again.click()
  if (toolName) await page.getByLabel('Tool', { exact: true }).selectOption({ label: toolName })
}
/** What was published is sounded at once: it is over when it can be closed. */
const soundedByItself = (page: Page) => page.getByRole('button', { name: 'Close', exact: true }).waitFor()
async function publish(page: Page) {
  await page.getByRole('button', { name: 'Make and publish' }).click()
  await page.waitForURL(/\/assignments\/[0-9a-z]{12}/)
  if (!page.url().includes('/work?')) await soundedByItself(page)
  return /assignments\/([0-9a-z]{12})/.exec(page.url())![1]!
}

describe('an instructor makes an assignment', () => {
  it('with Knotwork’s picker (1.1): what was picked is in the form at once, survives a closed page, and comes back scored', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await begin(page, 'Knotwork Drills')
    await page.getByLabel('Title').fill('Bends, picked')
    await page.getByLabel('Points', { exact: true }).fill('25')
    await page.getByRole('button', { name: 'Choose in Knotwork Drills' }).click()
    await tool(page).getByLabel('Bends and hitches').check()
    await tool(page).getByRole('button', { name: 'Take it' }).click()
    await page.getByText('Bends and hitches', { exact: true }).first().waitFor()
    // The tool says 30 points; what was typed stays until it is taken over.
    await page.getByText('The tool says').waitFor()
    await page.reload()
    await page.getByText('What you had typed before is here again').waitFor()
    await page.getByText('Bends and hitches', { exact: true }).first().waitFor()
    await page.getByRole('button', { name: 'Use the tool’s value for points' }).click()
    expect(await page.getByLabel('Points', { exact: true }).inputValue()).toBe('30')
    await page.getByLabel('Category').selectOption('Drills')
    const id = await publish(page)
    const sounding = await cli(['sounding', 'run', id])
    expect(sounding.output).toMatch(/0\.645 of 1 × 30 points = 19\.35, as the gradebook has it/)
    expect(complaints).toEqual([])
  })

  it('with Sextant’s picker (1.3): chosen in its frame, proven to the gradebook', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await begin(page, 'Sextant Bench')
    await page.getByRole('button', { name: 'Choose in Sextant Bench' }).click()
    await tool(page).getByLabel('Longitude by chronometer').check()
    await tool(page).getByRole('button', { name: 'Take it' }).click()
    await page.getByText('Longitude by chronometer', { exact: true }).first().waitFor()
    expect(await page.getByLabel('Title').inputValue()).toBe('Longitude by chronometer')
    expect(await page.getByLabel('Points', { exact: true }).inputValue()).toBe('10')
    await page.getByLabel('Category').selectOption('Chart work')
    const id = await publish(page)
    const { output, status } = await cli(['sounding', 'run', id])
    expect(output).toMatch(/0\.645 of 1 × 10 points = 6\.45, as the gradebook has it/)
    expect(status).toBe(0)
    expect(complaints).toEqual([])
  })

  it('with an address pasted out of Plotting Table: cleaned of the author’s session, its tool found, proven to the gradebook', async () => {
    const sheets = await (await fetch(`${demo.plotting}/sheets`)).text()
    const copied = /<code>([^<]*fix-by-bearings[^<]*)<\/code>/.exec(sheets)![1]!.replaceAll('&amp;', '&')
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await begin(page, '')
    await page.getByLabel('Launch address').fill(copied)
    await page.getByText('It carried your own session').waitFor()
    await page.getByText(`Leads to ${demo.plotting}/plot/fix-by-bearings?edition=4`).waitFor()
    expect(await page.getByLabel('Tool', { exact: true }).inputValue()).toBe('plotting-table')
    await page.getByLabel('Title').fill('Fix by three bearings')
    await page.getByLabel('Points', { exact: true }).fill('20')
    await page.getByLabel('Category').selectOption('Chart work')
    const id = await publish(page)
    const { output, status } = await cli(['sounding', 'run', id])
    expect(output).toMatch(/0\.645 of 1 × 20 points = 12\.9, as the gradebook has it/)
    expect(status).toBe(0)
    expect(complaints).toEqual([])
  })

  it('with Signal Mast, which asks at the first launch: it opens at once after saving, and linked is lit by it', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await begin(page, 'Signal Mast')
    await page.getByLabel('Title').fill('Pressure and air')
    await page.getByLabel('Points', { exact: true }).fill('5')
    await page.getByLabel('Category').selectOption('Drills')
    const id = await publish(page)
    await page.getByText('asks here what this link should open').waitFor()
    await tool(page).getByLabel('Pressure and air').check()
    await tool(page).getByRole('button', { name: 'Observe this' }).click()
    await tool(page).getByText('Pressure and air, round 1').waitFor()
    await page.getByRole('link', { name: 'Done: back to the assignment' }).click()
    await page.getByRole('heading', { name: 'Proof' }).waitFor()
    await page.getByText('Waiting for first entry').waitFor({ state: 'detached' })
    await soundedByItself(page)
    const { output, status } = await cli(['sounding', 'run', id])
    expect(output).toMatch(/0\.645 of 1 × 5 points = 3\.225, as the gradebook has it/)
    expect(status).toBe(0)
    expect(complaints).toEqual([])
  })

  it('twelve rounds of Signal Mast in one act', async () => {
    const { page } = await visit(browser, demo.url, 'tomas')
    await page.goto(`${demo.url}/courses/NAV-120/assignments/many`)
    await page.getByLabel('Tool, for rows that name none').selectOption({ label: 'Signal Mast' })
    await page.getByLabel('Category, for rows that name none').selectOption('Drills')
    await page.getByRole('button', { name: 'Choose in Signal Mast' }).click()
    await tool(page).getByRole('button', { name: 'Hand it over' }).click()
    await page.getByText('12 items came back').waitFor()
    await page.getByRole('button', { name: 'Take 12' }).click()
    await page.getByRole('link', { name: 'Cloud and cover, round 12' }).waitFor()
  })

  it('a picker that is left, and one that comes back empty, lose nothing of the form', async () => {
    const { page } = await visit(browser, demo.url, 'tomas')
    await begin(page, 'Sextant Bench')
    await page.getByLabel('Title').fill('Still here')
    await page.getByRole('button', { name: 'Choose in Sextant Bench' }).click()
    await tool(page).getByRole('button', { name: 'Take nothing' }).click()
    await page.getByText('came back without a choice').waitFor()
    await page.getByRole('button', { name: 'Choose in Sextant Bench' }).click()
    await page.getByRole('button', { name: 'Leave the picker' }).click()
    expect(await page.getByLabel('Title').inputValue()).toBe('Still here')
  })
})

describe('thirty assignments', () => {
  it('by one command, run twice, are thirty assignments', async () => {
    const rows = Array.from(
      { length: 30 },
      (_, i) => `Drill ${i + 1};${5 + i};2026-12-${String((i % 28) + 1).padStart(2, '0')};Term work;part${i}`,
    )
    const table = `\ufefftitle;points;due;unit;custom.drill\r\n${rows.join('\r\n')}\r\n`
    const create = () =>
      cli(
        ['assignment', 'create', 'HYD-210', '--from', '-', '--tool', 'knotwork-drills', '--category', 'Drills'],
        table,
      )
    const [first, second] = [await create(), await create()]
    expect([first.status, second.status]).toEqual([0, 0])
    expect(first.output).toContain('30 new, 0 changed, 0 as they were')
    expect(second.output).toContain('0 new, 0 changed, 30 as they were')
    const { output } = await cli(['course', 'outline', 'HYD-210', '--json'])
    const outline = JSON.parse(output) as { units: { title: string; items: unknown[] }[] }
    expect(outline.units.find((one) => one.title === 'Term work')!.items).toHaveLength(30)
  })
})

describe('the outline', () => {
  it('is made and moved by keys, and a learner’s page follows without a reload', async () => {
    const { page: tomas, complaints } = await visit(browser, demo.url, 'tomas')
    const { page: niamh, complaints: niamhs } = await visit(browser, demo.url, 'niamh')
    await niamh.goto(`${demo.url}/courses/HYD-210`)
    await niamh.getByRole('heading', { name: 'Lead line and rope' }).waitFor()
    await tomas.goto(`${demo.url}/courses/HYD-210`)
    await tomas.getByRole('button', { name: 'New in Lead line and rope' }).click()
    await tomas.getByLabel('Title', { exact: true }).fill('The leadsman’s calls')
    await tomas.getByRole('textbox', { name: 'Text' }).fill('By the mark, and by the deep.')
    await tomas.getByRole('button', { name: 'Put it here' }).click()
    await niamh.getByRole('link', { name: 'The leadsman’s calls' }).click()
    await niamh.getByText('By the mark, and by the deep.').waitFor()
    await niamh.goBack()
    await tomas.getByRole('button', { name: 'What can be done with The leadsman’s calls' }).click()
    await tomas.getByRole('button', { name: 'Move The leadsman’s calls up' }).press('Enter')
    await tomas.getByRole('status').getByText('The leadsman’s calls is number').waitFor({ state: 'attached' })
    const place = async () => {
      const unit = niamh.locator('section', { hasText: 'Lead line and rope' }).last()
      const titles = await unit.locator('li a').allInnerTexts()
      return titles.length - titles.indexOf('The leadsman’s calls')
    }
    await expect.poll(place).toBe(2)
    expect([...complaints, ...niamhs]).toEqual([])
  })
})

describe('Lantern Margins', () => {
  it('shows a course file to a learner, with the list of the own group', async () => {
    const { page } = await visit(browser, demo.url, 'niamh')
    await page.goto(`${demo.url}/courses/HYD-210`)
    await page.getByRole('link', { name: 'Corrections to the tides' }).click()
    await tool(page).getByText('Tidal heights above chart datum').waitFor()
    await tool(page).getByText('List of your group').waitFor()
    await tool(page).getByLabel('Your correction').fill('High water at six.')
    await tool(page).getByRole('button', { name: 'File it' }).click()
    await tool(page).getByText('High water at six.').waitFor()
  })
})
