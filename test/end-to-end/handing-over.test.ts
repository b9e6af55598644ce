import { readFileSync } from 'node:fs'
import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { openBrowser, PASSWORD, recordsOf, startDemo, visit } from './academy.js'
import { commandOf } from './command.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
beforeAll(async () => {
  demo = await startDemo('handing-over')
  browser = await openBrowser()
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

const practise = (path: string, form: Record<string, string>) =>
  fetch(`${demo.sextant}/practice${path}`, { method: 'POST', body: new URLSearchParams(form) })

describe('a course’s menu, in Chromium', () => {
  it('an instructor adds a tool, renames and moves it, and a learner’s page shows it at once', async () => {
    const { page: niamh, complaints: niamhs } = await visit(browser, demo.url, 'niamh')
    await niamh.getByRole('link', { name: 'HYD 210' }).click()
    const menu = niamh.getByRole('navigation', { name: 'Course menu' })
    await menu.getByRole('link', { name: 'Harbour Desk' }).waitFor()
    const labels = () => menu.getByRole('link').allInnerTexts()
    expect(await labels()).toEqual(['Harbour Desk', 'Deck stores'])

    const { page: tomas, complaints } = await visit(browser, demo.url, 'tomas')
    await tomas.goto(`${demo.url}/courses/HYD-210/menu`)
    await tomas.getByLabel('Find a tool in the catalogue').fill('gear that lies')
    await tomas.getByRole('button', { name: 'Put Chandlery Shelf into the menu' }).click()
    await menu.getByRole('link', { name: 'Chandlery Shelf' }).waitFor()

    await tomas.getByRole('button', { name: 'Change Chandlery Shelf' }).click()
    await tomas.getByLabel('Label').fill('Foul weather gear')
    await tomas.getByRole('button', { name: 'Save' }).click()
    await menu.getByRole('link', { name: 'Foul weather gear' }).waitFor()
    expect(await labels()).toEqual(['Harbour Desk', 'Deck stores', 'Foul weather gear'])

    await tomas.getByRole('button', { name: 'Move Foul weather gear up' }).click()
    await tomas.getByText('Foul weather gear is number 2 of 3 now.').waitFor()
    await expect.poll(labels).toEqual(['Harbour Desk', 'Foul weather gear', 'Deck stores'])

    await tomas.getByRole('button', { name: 'Hide Harbour Desk' }).click()
    await expect.poll(labels).toEqual(['Foul weather gear', 'Deck stores'])
    const [shelf] = await Promise.all([
      niamh.waitForEvent('popup'),
      (async () => {
        await menu.getByRole('link', { name: 'Foul weather gear' }).click()
        await niamh.getByText('returns no scores').waitFor()
        await niamh.getByRole('link', { name: 'Open Chandlery Shelf in a window' }).click()
      })(),
    ])
    await shelf.getByText('Oilskins').waitFor()
    // A tool that held the window it was opened from could lead it to a page of its own.
    expect(await shelf.evaluate(() => window.opener)).toBeNull()
    expect([...complaints, ...niamhs]).toEqual([])
  })

  it('a tool that waits for its first entry is opened by the instructor, then by learners', async () => {
    const { page: tomas } = await visit(browser, demo.url, 'tomas')
    await tomas.goto(`${demo.url}/watch`)
    await tomas.getByRole('heading', { name: 'Waiting for first entry' }).waitFor()
    await tomas.getByRole('link', { name: 'Open it' }).click()
    const desk = tomas.frameLocator('iframe').frameLocator('iframe')
    await desk.getByRole('button', { name: 'Yes, tie my account' }).click()
    await desk.getByRole('button', { name: 'Tie the course' }).click()
    await desk.getByText('Welcome to the desk of Coastal Navigation').waitFor()
    await tomas.goto(`${demo.url}/courses/NAV-120/menu`)
    await tomas.getByText('First opened by Tomas Okaforlind').waitFor()
  })
})

describe('LTI 1.3, in Chromium', () => {
  it('runs in a frame without cookies, by the platform’s storage, and in a window', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'tomas')
    await page.goto(`${demo.url}/courses/NAV-120/assignments`)
    await page.getByRole('link', { name: 'Noon altitude' }).click()
    await page.waitForURL(/assignments\/\w+$/)
    const work = `${page.url()}/work`
    for (const faults of ['', 'no_cookies']) {
      await practise('', { faults })
      await page.goto(work)
      const bench = page.frameLocator('iframe').frameLocator('iframe')
      await bench.getByText('Choose what this link opens').waitFor()
      await bench.getByText('Tomas Okaforlind').waitFor()
    }
    await practise('', { faults: '' })
    const id = new URL(page.url()).pathname.split('/').at(-2)!
    const window = await page.context().newPage()
    await window.goto(`${demo.url}/lti/launch/${id}?target=window`)
    await window.getByText('Choose what this link opens').waitFor()
    expect(complaints).toEqual([])
  })

  it('shows a person what the tool says went wrong', async () => {
    await practise('', { faults: 'reports_error' })
    const { page } = await visit(browser, demo.url, 'tomas')
    await page.goto(`${demo.url}/courses/NAV-120/assignments`)
    await page.getByRole('link', { name: 'Noon altitude' }).click()
    await page.waitForURL(/assignments\/\w+$/)
    await page.goto(`${page.url()}/work`)
    await page.frameLocator('iframe').frameLocator('iframe').getByText('The bench is closed for repairs.').waitFor()
    await practise('', { faults: '' })
  })

  it('a tool registers itself in its own window, which closes by itself, and is approved in part', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/tools/register`)
    await page.getByLabel('Paste whatever the vendor gave you').fill(`${demo.sextant}/register`)
    const [popup] = await Promise.all([
      page.waitForEvent('popup'),
      page.getByRole('button', { name: 'Let it register' }).click(),
    ])
    // It is one that the academy has: a second registration is asked for, and said why.
    await page.getByText('It is registered already, as Sextant Bench').waitFor()
    await page.getByLabel('Register it a second time anyway, because').fill('A key of its own for summer')
    await page.getByRole('button', { name: 'Let it register' }).click()
    await page.getByText('This registration waits for approval').waitFor()
    await expect.poll(() => popup.isClosed()).toBe(true)
    await page.getByText('Almost the same name').waitFor()
    await page.getByLabel('make, change and delete its own columns of the gradebook').uncheck()
    await page.getByRole('button', { name: 'Approve and enable' }).click()
    await page.getByText('Granted: send scores').waitFor()
    expect(await page.getByText('Granted: make, change and delete').count()).toBe(0)
    expect(complaints).toEqual([])
  })

  it('a person is found, changed and let in by a link, and the audit says so; the same by command line', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.getByRole('link', { name: 'People', exact: true }).click()
    await page.getByRole('heading', { name: 'People' }).waitFor()
    await page.getByRole('button', { name: 'New person' }).click()
    await page.getByLabel('Name', { exact: true }).fill('Solveig Marrakindt')
    await page.getByLabel('User name').fill('solveig')
    await page.getByRole('button', { name: 'Make the person' }).click()
    await page.getByRole('heading', { name: 'Solveig Marrakindt' }).waitFor()
    await page.getByText('In no course.').waitFor()
    await page.getByRole('button', { name: 'Make a link' }).click()
    await page.getByText('It is shown this once').waitFor()
    await page.getByRole('button', { name: 'Change' }).click()
    await page.getByLabel('Email').fill('solveig@skerrow.example')
    await page.getByRole('button', { name: 'Save' }).click()
    await page.getByText('solveig@skerrow.example').waitFor()
    await page.getByRole('link', { name: 'Audit', exact: true }).click()
    await page.getByLabel('Act or subject').fill('person solveig')
    await page.getByText('change person').waitFor()
    await page.getByText('fields').first().click()
    await page.getByRole('definition').getByText('solveig@skerrow.example').waitFor()
    const download = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Save as CSV' }).click()
    expect((await download).suggestedFilename()).toMatch(/^audit-.*\.csv$/)
    expect(complaints).toEqual([])

    const { client } = await signIn(demo.url, 'ingrid', PASSWORD)
    const { token } = await client.call('createToken', { body: { name: 'people', scopes: ['read', 'teach', 'administer'] } }) // oxfmt-ignore
    const run = async (...args: string[]) => {
      const done = await commandOf({ url: demo.url, home: demo.folder }, args, '', { BATHYSCRIBE_TOKEN: token })
      return { status: done.status, output: done.stdout + done.stderr }
    }
    expect((await run('person', 'list', '--only', 'in-no-course')).output).toContain('solveig')
    expect((await run('person', 'change', 'solveig', '--site-role', 'administrator')).output).toMatch(/site role +administrator/) // oxfmt-ignore
    expect((await run('person', 'change', 'solveig')).status).toBe(2)
    expect((await run('person', 'show', 'niamh')).output).toMatch(/HYD 210 +Hydrographic Surveying +learner/)
    expect((await run('person', 'audit', '--search', 'person solveig', '--by', 'ingrid', '--limit', '1')).output).toContain('siteRole: none → administrator') // oxfmt-ignore
    expect((await run('person', 'audit', '--search', 'person solveig', '--csv', '-')).output).toMatch(/^at,username,name,via,action,subject/) // oxfmt-ignore
  })

  it('a course is made, gets its categories, and is closed and opened again; who is in it signs in by a link', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/courses`)
    await page.getByRole('link', { name: 'New course' }).click()
    await page.getByLabel('Code').fill('TID 300')
    await page.getByLabel('Title').fill('Tides and levels')
    await page.getByLabel('Term').fill('Spring 2027')
    await page.getByRole('button', { name: 'Make the course' }).click()
    for (const name of ['Reports', 'Drills']) {
      await page.getByLabel('Name of a new category').fill(name)
      await page.getByRole('button', { name: 'Add a category' }).click()
      await page.getByLabel(`Percent of ${name}`).waitFor()
    }
    await page.getByLabel('Percent of Drills').fill('40')
    await page.getByLabel('Percent of Drills').press('Tab')
    await page.getByText('The percents come to 40').waitFor()
    await page.getByRole('button', { name: 'Move Drills up' }).click()
    await expect
      .poll(() =>
        page.getByLabel(/^Name of (?!a new)/).evaluateAll((all) => all.map((one) => (one as HTMLInputElement).value)),
      )
      .toEqual(['Drills', 'Reports'])
    await page.getByRole('button', { name: 'Close the course' }).click()
    await page.getByText('▲ closed').waitFor()
    await page.getByRole('button', { name: 'Open it again' }).click()
    await page.getByRole('button', { name: 'Close the course' }).waitFor()

    await page.getByRole('main').getByRole('link', { name: 'People' }).click()
    await page.getByLabel('User name of the person to add').fill('layan')
    await page.getByRole('button', { name: 'Add', exact: true }).click()
    await page.getByRole('cell', { name: 'layan' }).waitFor()
    await page.getByText('Let them sign in').click()
    await page.getByText('Also for those who have a password').click()
    await page.getByRole('button', { name: 'Make the links' }).click()
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: /as CSV/ }).click(),
    ])
    const link = /http\S+welcome#[\w-]+/.exec(readFileSync((await file.path())!, 'utf8'))![0]
    expect(complaints).toEqual([])

    const guest = await (await browser.newContext()).newPage()
    await guest.goto(link)
    await guest.getByLabel('New password').fill('sounding-pole-and-tallow')
    await guest.getByRole('button', { name: 'Set it and sign in' }).click()
    await guest.getByRole('link', { name: 'TID 300' }).waitFor()
    await guest.goto(link)
    await guest.getByText('This link was used already').waitFor()
    await guest.context().close()
  })

  it('the secret of a tool is rotated beside the old one, after the password was given once more, and shown once', async () => {
    const { page } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/tools/harbour-desk`)
    await recordsOf(demo, (records) => records.query(`update session set confirmed_at = now() - interval '2 hours'`))
    await page.getByRole('button', { name: 'Rotate the secret …' }).click()
    await page.getByRole('button', { name: 'Bring it in' }).click()
    const asking = page.getByRole('dialog', { name: 'Your password once more' })
    // Left alone, nothing is done and the page says why.
    await asking.getByRole('button', { name: 'Cancel' }).click()
    await page.getByText('This needs your password once more.').waitFor()
    await page.getByRole('button', { name: 'Bring it in' }).click()
    await asking.getByLabel('Password').fill('not this one')
    await asking.getByRole('button', { name: 'Go on' }).click()
    await asking.getByText('The current password is wrong.').waitFor()
    await asking.getByLabel('Password').fill(PASSWORD)
    await asking.getByLabel('Password').press('Enter')
    await page.getByText('it is shown this once').waitFor()
    await page.getByRole('cell', { name: /previous/ }).waitFor()
  })

  it('a tool’s addresses move in one act when its domain does, and are taken back', async () => {
    const { page, complaints } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/tools/sextant-bench`)
    await page.getByRole('button', { name: 'Move addresses …' }).click()
    const asking = page.getByRole('dialog', { name: 'Move the addresses of Sextant Bench?' })
    // Where it is now is filled in; what nothing begins with is said before anything is done.
    expect(await asking.getByLabel('What begins with').inputValue()).toBe(demo.sextant)
    await asking.getByLabel('What begins with').fill('https://nothing.example')
    await asking.getByLabel('is to begin with').fill('https://bench.example/lti')
    await asking.getByText('No address begins with https://nothing.example.').waitFor()
    expect(await asking.getByRole('button', { name: 'Move them' }).isDisabled()).toBe(true)
    await asking.getByLabel('What begins with').fill(demo.sextant)
    await asking.getByRole('cell', { name: 'https://bench.example/lti/login' }).waitFor()
    await asking.getByRole('button', { name: 'Move them' }).click()
    await page.getByText(`moved from ${demo.sextant} to https://bench.example/lti`).waitFor()
    await page.getByRole('button', { name: 'Take that back' }).click()
    await page.getByText(`moved from ${demo.sextant}`).waitFor({ state: 'detached' })
    await page.getByText(`${demo.sextant}/login`).first().waitFor()
    expect(complaints).toEqual([])
  })

  it('a tool is deleted after it was said what hangs on it, and brought back', async () => {
    const { page } = await visit(browser, demo.url, 'ingrid')
    await page.goto(`${demo.url}/tools/chandlery-shelf`)
    await page.getByRole('button', { name: 'Delete …' }).click()
    await page.getByText('menu entries depend on it').waitFor()
    await page.getByRole('button', { name: 'Delete', exact: true }).click()
    await page.getByText('deleted').first().waitFor()
    await page.getByRole('button', { name: 'Bring it back' }).click()
    await page.getByText('enabled').first().waitFor()
  })
})
