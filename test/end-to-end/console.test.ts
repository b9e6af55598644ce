import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { openBrowser, PASSWORD, startDemo, visit } from './academy.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
beforeAll(async () => {
  demo = await startDemo('console')
  browser = await openBrowser()
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

describe('in Chromium', () => {
  it('an instructor makes and publishes an assignment, a learner does the drill in the frame, and the score arrives in the gradebook without a reload', async () => {
    const { page: tomas, complaints } = await visit(browser, demo.url, 'tomas')
    await tomas.getByRole('navigation').getByRole('link', { name: 'Courses' }).click()
    await tomas.getByRole('link', { name: 'HYD 210' }).click()
    await tomas.getByRole('link', { name: 'New assignment' }).click()
    // The course's own page has a field for a title, too.
    await tomas.getByRole('heading', { name: 'New assignment' }).waitFor()
    await tomas.getByLabel('Title').fill('Reading the echo trace')
    await tomas.getByLabel('Tool', { exact: true }).selectOption({ label: 'Knotwork Drills' })
    await tomas.getByLabel('Points').fill('0')
    await tomas.getByText('The assignment has no points').waitFor()
    await tomas.getByLabel('Points').fill('50')
    await tomas.getByLabel('Category').selectOption('Drills')
    await tomas.getByLabel('Custom parameters').fill('drill=soundings\npart=echo')
    await tomas.getByText('Nothing prevents publishing').waitFor()
    await tomas.getByRole('button', { name: 'Make and publish' }).click()
    await tomas.getByRole('heading', { name: 'Reading the echo trace' }).waitFor()
    // What is published is proven before any learner comes.
    await tomas.getByText('Proven all the way').waitFor()
    const address = new URL(tomas.url()).pathname
    const gradebook = await tomas.context().newPage()
    await gradebook.goto(`${demo.url}${address.replace(/\/assignments\/.*/, '/gradebook')}`)
    const cell = gradebook.getByRole('button', { name: "Niamh O'Drevnakh, Reading the echo trace:" })
    await cell.getByText('·').waitFor()

    const { page: niamh, complaints: niamhs } = await visit(browser, demo.url, 'niamh')
    await niamh.getByRole('link', { name: 'HYD 210' }).click()
    await niamh.getByRole('link', { name: 'Reading the echo trace' }).click()
    // The tool may have been faster than we are.
    await niamh
      .getByText(/No result yet|opened/)
      .first()
      .waitFor()
    const tool = niamh.frameLocator('iframe').frameLocator('iframe')
    await tool.getByText("Niamh O'Drevnakh").waitFor()
    for (const [question, choice] of ['Chart datum', '150 m', 'The tide'].entries())
      await tool.locator('fieldset').nth(question).getByLabel(choice).check()
    await tool.getByRole('button', { name: 'Hand in' }).click()
    await tool.getByText('Your score was sent').waitFor()

    await niamh.getByText('33 of 50').waitFor()
    await cell.getByText('33').waitFor()
    await cell.click()
    await gradebook.getByText('0.6667 of 1 × 50 points = 33.335, shown as 33 (half up, no decimals).').waitFor()
    await tomas.getByText('0.6667 of 1 × 50 = 33.335 is in the gradebook.').waitFor()
    await expect.poll(() => tomas.locator('.upright .mark-proven').count()).toBe(6)
    expect([...complaints, ...niamhs]).toEqual([])
  })

  it('a technologist registers a tool with a space copied along, checks it, and runs a sounding that names the wrong secret', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.getByRole('navigation').getByRole('link', { name: 'Tools' }).click()
    await page.getByRole('link', { name: 'Register a tool' }).click()
    await page
      .getByLabel('Paste whatever the vendor gave you')
      .fill(
        `Tool: Knotwork, misheard\nKey: skerrow-knots\nSecret: "halyard-misheard\u200b"\nURL: ${demo.knotwork}/launch`,
      )
    await page.getByText('invisible characters (U+200B)').waitFor()
    await page.getByText('has the same key, launch address').first().waitFor()
    await page.getByRole('button', { name: 'Register “Knotwork, misheard” by LTI 1.1' }).click()
    await page.getByText('is registered already').waitFor()
    await page.getByLabel('Register it a second time anyway, because').fill('Trying the sounding')
    await page.getByRole('button', { name: 'Register “Knotwork, misheard” by LTI 1.1' }).click()
    await page.getByRole('heading', { name: 'Knotwork, misheard' }).waitFor()
    await page.getByRole('button', { name: 'Show; this is audited' }).click()
    await page.getByText('halyard-misheard', { exact: true }).waitFor()
    await page.getByRole('button', { name: 'Check the tool’s end' }).click()
    await page.getByText('The tool may be shown in a frame of ours').waitFor()
    await page.getByText('The shared secret is wrong, as far as the tool’s answers tell').waitFor()

    await page.getByRole('navigation').getByRole('link', { name: 'Courses' }).click()
    await page.getByRole('link', { name: 'NAV 120' }).click()
    await page.getByRole('link', { name: 'Knots under way' }).click()
    await page.getByRole('button', { name: 'Run a sounding' }).click()
    await page.locator('.note-bad').getByText('The shared secret is wrong').waitFor()
    await page.getByRole('link', { name: 'All that it finds' }).click()
    await page.locator('.note-bad').getByText('The shared secret is wrong').waitFor()
    expect(complaints).toEqual([])
  })

  it('an instructor rehearses as the test learner, and nothing of it touches real learners’ numbers', async () => {
    const { page } = await visit(browser, demo.url, 'maren')
    await page.getByRole('navigation').getByRole('link', { name: 'Courses' }).click()
    await page.getByRole('link', { name: 'MET 130' }).click()
    await page.getByRole('link', { name: 'Clouds and fronts' }).click()
    // The page of the course, which may still be there, has such a link, too.
    await page.getByRole('heading', { name: 'Proof' }).waitFor()
    await page.getByRole('link', { name: 'Rehearse' }).click()
    await page.getByText('Rehearsal as the test learner').waitFor()
    await page.frameLocator('iframe').frameLocator('iframe').getByText('Test learner of MET 130').waitFor()
    await page.getByRole('link', { name: 'Clouds and fronts as you see it' }).click()
    await page.getByRole('heading', { name: 'Proof' }).waitFor()
  })

  it('a learner sees courses, work and own results, and nothing else', async () => {
    const { page } = await visit(browser, demo.url, 'tamar')
    expect(await page.getByRole('navigation').getByRole('link').allInnerTexts()).toEqual(['', 'Courses'])
    await page.goto(`${demo.url}/watch`)
    await page.getByText('Your role does not allow this.').waitFor()
    await page.goto(`${demo.url}/tools`)
    await page.getByText('Your role does not allow this.').waitFor()
  })

  it('a learner says that a score is missing; the instructor finds out why from the gradebook, writes, and closes the case', async () => {
    const { client } = await signIn(demo.url, 'ingrid', PASSWORD)
    const { items } = await client.call('listAssignments', { params: { course: 'HYD-210' } })
    const { id } = items.find((one) => one.title === 'Bends for the lead line')!
    const { page: niamh, complaints: niamhs } = await visit(browser, demo.url, 'niamh')
    await niamh.goto(`${demo.url}/courses/HYD-210/assignments/${id}`)
    // Opened in the frame, and nothing done there.
    await niamh.frameLocator('iframe').frameLocator('iframe').getByRole('button', { name: 'Hand in' }).waitFor()
    await niamh.getByRole('button', { name: 'My score is missing' }).click()
    await niamh.getByLabel('What did you do, and when?').fill('On Monday, all three questions.')
    await niamh.getByRole('button', { name: 'Tell my instructors' }).click()
    await niamh.getByText('Knotwork Drills has sent no score for you since').waitFor()

    const { page: tomas, complaints } = await visit(browser, demo.url, 'tomas')
    await tomas.goto(`${demo.url}/courses/HYD-210/gradebook`)
    await tomas.getByRole('button', { name: "Niamh O'Drevnakh, Bends for the lead line:" }).click()
    await tomas.getByRole('link', { name: 'The whole case' }).click()
    await tomas.getByText('On Monday, all three questions.').waitFor()
    await tomas.getByText('Run a sounding of the assignment').waitFor()
    await tomas.getByRole('textbox', { name: 'Text' }).fill('Please hand in once more; I look at it on Friday.')
    await tomas.getByRole('button', { name: 'Show it on their pages' }).click()
    await tomas.getByText('Written to the learner, on their pages; not put away yet').waitFor()

    // It is there without a reload, and so is what the learner does with it.
    await niamh.getByText('Please hand in once more').waitFor()
    await niamh.getByRole('button', { name: /^Put away: Bends/ }).click()
    await niamh.getByText('Please hand in once more').waitFor({ state: 'detached' })
    await tomas.getByText('Written to the learner, on their pages; put away as read').waitFor()
    await tomas.getByRole('button', { name: 'Close the case' }).click()
    await tomas.getByRole('button', { name: 'Open it again' }).waitFor()
    expect([...complaints, ...niamhs]).toEqual([])
  })

  it('who never opened an assignment is reminded on their own pages', async () => {
    const { page: tomas, complaints } = await visit(browser, demo.url, 'tomas')
    await tomas.goto(`${demo.url}/courses/HYD-210/assignments`)
    await tomas.getByRole('link', { name: 'Transducer offsets' }).click()
    await tomas.getByRole('button', { name: /^\d+ never opened$/ }).click()
    await tomas.getByLabel('What they are told').fill('The offsets are due on Friday.')
    await tomas.getByRole('button', { name: 'Remind all on their pages' }).click()
    await tomas.getByText(/^\d+ learners reminded\.$/).waitFor()
    await tomas.getByRole('button', { name: 'Remind all on their pages' }).click()
    await tomas.getByText('they were reminded less than 20 hours ago').waitFor()
    const { page: niamh } = await visit(browser, demo.url, 'niamh')
    await niamh.getByText('The offsets are due on Friday.').waitFor()
    expect(complaints).toEqual([])
  })

  it('what was typed into a new assignment survives a closed page', async () => {
    const { page } = await visit(browser, demo.url, 'priyanka')
    await page.goto(`${demo.url}/courses/WKR-115/assignments/new`)
    await page.getByLabel('Title').fill('Half a thought')
    await page.waitForFunction(() => JSON.stringify(localStorage).includes('Half a thought'))
    await page.goto(`${demo.url}/courses`)
    await page.goto(`${demo.url}/courses/WKR-115/assignments/new`)
    await page.getByText('What you had typed before is here again').waitFor()
    expect(await page.getByLabel('Title').inputValue()).toBe('Half a thought')
  })

  it('what cannot be made is said where the person looks, however long the form is', async () => {
    const { page } = await visit(browser, demo.url, 'priyanka')
    await page.goto(`${demo.url}/courses/WKR-115/assignments/new`)
    await page.getByLabel('Points').fill('ten')
    const button = page.getByRole('button', { name: 'Make and publish' })
    await button.scrollIntoViewIfNeeded()
    await button.click()
    const alert = page.getByRole('alert')
    await alert.getByText('title').waitFor()
    await expect
      .poll(async () => {
        const box = (await alert.boundingBox())!
        return box.y >= 0 && box.y + box.height <= 800
      })
      .toBe(true)
  })

  it('“/” leads to the search, which finds courses and tools by keyboard', async () => {
    const { page } = await visit(browser, demo.url, 'ingrid')
    await page.getByRole('heading', { name: 'Watch' }).waitFor()
    await page.keyboard.press('/')
    await page.keyboard.type('weather')
    // Assignments of that course may be found, too, a moment later.
    await page.getByRole('option', { name: 'Course MET 130' }).waitFor()
    await page.keyboard.press('Enter')
    await page.getByRole('heading', { name: 'MET 130 Marine Weather' }).waitFor()
  })

  it('a large gradebook is read by keys and wheel: rows and columns stay in order, and who is in a cell stays there', async () => {
    const { client } = await signIn(demo.url, 'ingrid', PASSWORD)
    const { id: course } = await client.call('createCourse', { body: { code: 'LAR 200', title: 'Large' } })
    const learners = Array.from({ length: 120 }, (_, i) => `deckhand ${String(i + 1).padStart(3, '0')}`)
    await client.call('importRoster', {
      body: {
        fileName: 'large.csv',
        table: [
          'Name,username,course',
          ...learners.map((name, i) => `"Deckhand, ${name}",deckhand-${i + 1},LAR 200`),
        ].join('\n'),
        apply: true,
      },
    })
    const titles = Array.from({ length: 24 }, (_, i) => `Watch ${i + 1}`)
    await client.call('makeTable', {
      params: { course },
      body: { table: ['title,tool,points', ...titles.map((title) => `${title},knotwork-drills,10`)].join('\n') },
    })
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/courses/LAR-200/gradebook`)
    await page.getByText('120 of 120').waitFor()
    const names = () => page.locator('.book-body .book-name bdi').allInnerTexts()
    const heads = () => page.locator('.book-title').allInnerTexts()
    const inOrder = (all: string[], some: string[]) => {
      const from = all.indexOf(some[0]!)
      return some.length > 3 && some.every((one, i) => one === all[from + i])
    }
    const people = learners.map((name) => `${name} Deckhand`)
    expect(inOrder(people, await names())).toBe(true)
    await page.locator('.book').hover()
    for (let i = 0; i < 12; i++) await page.mouse.wheel(90, 200)
    await page.getByText('deckhand 070 Deckhand').waitFor()
    await expect.poll(async () => inOrder(people, await names()) && inOrder(titles, await heads())).toBe(true)
    expect(await names()).not.toContain(people[0])

    await page.locator('.book').evaluate((book) => book.scrollTo(0, 0))
    await page.getByRole('button', { name: 'deckhand 001 Deckhand, Watch 1:' }).focus()
    for (let i = 0; i < 40; i++) await page.keyboard.press('ArrowDown')
    for (let i = 0; i < 15; i++) await page.keyboard.press('ArrowRight')
    const focused = () => page.evaluate(() => document.activeElement?.getAttribute('aria-label') ?? '')
    await expect.poll(focused).toContain('deckhand 041 Deckhand, Watch 16:')
    await expect.poll(async () => inOrder(people, await names())).toBe(true)
    expect(await focused()).toContain('deckhand 041 Deckhand, Watch 16:')
    await page.keyboard.press('Enter')
    const trail = page.getByRole('dialog')
    await trail.getByText('deckhand 041 Deckhand').first().waitFor()
    await trail.getByText('Watch 16').first().waitFor()
    expect(complaints).toEqual([])
  })
})
