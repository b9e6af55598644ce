import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Browser, FrameLocator, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createClient, type Client } from '@bathyscribe/contract'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { RUN } from '@bathyscribe/yard/machine/place'
import { setupCodeOf, startStack, stopStack, type Running } from '@bathyscribe/yard/machine/stack'
import { Acts } from './acts.js'
import { openBrowser, PASSWORD, visit } from './academy.js'
import { commandOf } from './command.js'

/** So many acts lead from what a vendor sends to an assignment that is published and proven. */
const ACTS = 8
const COMMANDS = 3

/** An academy of one administrator and one course, which knows no tool yet. */
async function startEmpty(name: string) {
  const folder = join(RUN, `e2e-${name}-${process.pid}`)
  const running = await startStack({ folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } })
  const nobody = createClient({ baseUrl: running.url, headers: () => ({}) })
  const ingrid = { username: 'ingrid', fullName: 'Ingrid Valesdottir', password: PASSWORD }
  await nobody.call('setUp', { body: { code: setupCodeOf(folder)!, ...ingrid } })
  const { client } = await signIn(running.url, 'ingrid', PASSWORD)
  const body = { code: 'HYD 210', title: 'Hydrographic Surveying', categories: ['Drills'] }
  const course = await client.call('createCourse', { body })
  await client.call('createPerson', { body: { username: 'tomas', fullName: 'Tomas Okaforlind', password: PASSWORD } })
  await client.call('enrol', { params: { course: course.id }, body: { person: 'tomas', role: 'instructor' } })
  return { ...running, folder, client, course: course.id }
}
type Empty = Running & { folder: string; client: Client; course: string }

const mailOf = (
  origin: string,
  path: string,
  key: string,
  secret: string,
) => `Subject: LTI credentials for Plotting Table

Dear Ingrid,

LTI is enabled for your academy now.

  Consumer key:  ${key}
  Shared secret: ${secret}
  Launch URL:    ${origin}${path}

Kind regards,
Support
`

const configurationOf = ({ knotwork }: Running) =>
  `Configuration URL: ${knotwork}/config.xml\nConsumer key: skerrow-knots\nShared secret: halyard-3-bowline-7-fid\n`

async function proofOf(client: Client, course: string, title: string) {
  const { items } = await client.call('listAssignments', { params: { course } })
  const one = items.find((each) => each.title === title)!
  return { state: one.state, marks: one.proof.map((mark) => mark.state) }
}
const PROVEN = { state: 'published', marks: Array.from({ length: 6 }, () => 'proven') }

describe('in the console, at most eight acts lead to a proven, published assignment', () => {
  let empty: Empty
  let browser: Browser
  let page: Page
  let acts: Acts
  let complaints: string[]
  beforeAll(async () => {
    empty = await startEmpty('eight-acts')
    browser = await openBrowser()
    ;({ page, complaints } = await visit(browser, empty.url, 'ingrid'))
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write'], { origin: empty.url })
  })
  afterAll(async () => {
    await browser?.close()
    await stopStack(empty.folder, { remove: true })
  })

  const button = (name: string | RegExp) => page.getByRole('button', { name })
  const picker = (): FrameLocator => page.frameLocator('iframe').frameLocator('iframe')
  const work = (): FrameLocator =>
    page.getByLabel('The sounding that is under way').frameLocator('iframe').frameLocator('iframe')

  /** Begins on the page of the course that the work is for. */
  async function begin() {
    await page.goto(`${empty.url}/courses/${empty.course}`)
    acts = new Acts(page)
    await acts.press(page.getByRole('link', { name: 'Register a tool' }))
    await page.getByLabel('Paste whatever the vendor gave you').waitFor()
  }
  /** Every mark lights up on the page where it was published. */
  async function seeProven(title: string) {
    await page.getByText('Proven all the way').waitFor()
    expect(await page.locator('.upright .name + .quiet').allInnerTexts()).toEqual(
      Array.from({ length: 6 }, () => 'proven'),
    )
    expect(await proofOf(empty.client, empty.course, title)).toEqual(PROVEN)
    expect(acts.done.length, acts.done.join('\n')).toBeLessThanOrEqual(ACTS)
    expect(complaints).toEqual([])
  }

  it('from a mail with key and secret (1.1): a person is told that the work has to be done once, and has it before them', async () => {
    await begin()
    await acts.paste(mailOf(empty.plotting, '/plot/running-fix', 'skerrow-plotting', 'parallel-6-rule-4-divider'))
    await acts.press(button(/^Register “/))
    await acts.type(page.getByLabel('Title'), 'Running fix')
    await acts.press(button('Make and publish'))
    await page.getByText('a person has to do the work once').waitFor()
    await acts.type(work().getByLabel('Your answer'), '4')
    await acts.press(work().getByRole('button', { name: 'Hand in' }))
    await seeProven('Running fix')
    expect(acts.done).toHaveLength(7)
  })

  it('from the address of a configuration (1.1), sent with key and secret, which is read as it is pasted', async () => {
    await begin()
    await acts.paste(configurationOf(empty))
    await acts.press(button('Register “Knotwork Drills” by LTI 1.1'))
    // A tool without a picker hands nothing over: its own name is there to begin with.
    await expect.poll(() => page.getByLabel('Title').inputValue()).toBe('Knotwork Drills')
    await acts.press(button('Make and publish'))
    for (const [i, answer] of ['Bowline', 'Sheet bend', 'Clove hitch'].entries())
      await acts.press(work().getByRole('group').nth(i).getByLabel(answer))
    await acts.press(work().getByRole('button', { name: 'Hand in' }))
    await seeProven('Knotwork Drills')
    expect(acts.done).toHaveLength(8)
  })

  it('from an address where the tool registers itself (1.3): approved, chosen in its picker, which opens by itself', async () => {
    await begin()
    await acts.paste(`${empty.sextant}/register`)
    await acts.press(button('Let it register'))
    await acts.press(button('Approve and enable'))
    await acts.press(picker().getByRole('button', { name: 'Take it' }))
    await page.getByText('picked in').or(page.locator('.content-part strong')).first().waitFor()
    // What the tool handed over is in the form: nothing is left to be typed.
    await expect.poll(() => page.getByLabel('Title').inputValue()).not.toBe('')
    const title = await page.getByLabel('Title').inputValue()
    await acts.press(button('Make and publish'))
    await acts.type(work().getByLabel('Your answer'), '1')
    await acts.press(work().getByRole('button', { name: 'Answer' }))
    await seeProven(title)
    expect(acts.done).toHaveLength(8)
  })
})

describe('on the command line, at most three commands do', () => {
  let empty: Empty
  let commands: string[][] = []
  beforeAll(async () => {
    empty = await startEmpty('three-commands')
  })
  afterAll(() => stopStack(empty.folder, { remove: true }))

  async function run(args: string[], input = '') {
    commands.push(args)
    const { status, stdout, stderr } = await commandOf({ url: empty.url, home: empty.folder }, args, input)
    return { status, output: stdout + stderr }
  }
  const prove = (source: string, title: string, ...more: string[]) =>
    run(['tool', 'intake', source, '--yes', '--sounding', 'practice_score=0.645', '--into', 'HYD-210', '--assignment', title, '--category', 'Drills', '--prove', ...more]) // oxfmt-ignore

  const handed = () => {
    const mail = join(empty.folder, 'mail.txt')
    writeFileSync(mail, mailOf(empty.plotting, '/plot/running-fix', 'skerrow-plotting', 'parallel-6-rule-4-divider'))
    const configuration = join(empty.folder, 'configuration.txt')
    writeFileSync(configuration, configurationOf(empty))
    return { mail, configuration, registration: `${empty.sextant}/register` }
  }

  it('registers nothing where what is to be made of it cannot be made, and says what to do', async () => {
    await run(['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], PASSWORD)
    const intake = async (...more: string[]) => run(['tool', 'intake', handed().mail, '--yes', ...more])
    for (const [more, says, exits] of [
      [['--into', 'HYD-210'], '--into and --assignment go together', 2],
      [['--prove'], 'Add --into COURSE', 2],
      [['--into', 'HYD-999', '--assignment', 'X'], 'HYD-999', 1],
      [['--into', 'HYD-210', '--assignment', 'X', '--category', 'Essays'], 'course category-add HYD-210 "Essays"', 1],
      [['--into', 'HYD-210', '--assignment', 'X', '--unit', 'Week 9'], 'course unit-add HYD-210 "Week 9"', 1],
    ] as const) {
      const { status, output } = await intake(...more)
      expect([status, output.includes(says)], output).toEqual([exits, true])
    }
    expect((await empty.client.call('listTools', { query: {} })).items).toEqual([])
  })

  it.each([
    { of: 'a mail (1.1)', source: () => handed().mail, more: [] },
    { of: 'an address of a configuration (1.1)', source: () => handed().configuration, more: [] },
    {
      of: 'an address of a registration (1.3)',
      source: () => handed().registration,
      more: ['--custom', 'exercise=altitude'],
    },
  ])('of $of', async ({ of, source, more }) => {
    commands = []
    await run(['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], PASSWORD)
    const { status, output } = await prove(source(), `Proven of ${of}`, ...more)
    expect(output).toMatch(/0\.645 of 1 × 100 points = 64\.5, as the gradebook has it|6\.45 of 10/)
    expect(status, output).toBe(0)
    expect(await proofOf(empty.client, empty.course, `Proven of ${of}`)).toEqual(PROVEN)
    expect(commands.length).toBeLessThanOrEqual(COMMANDS)
  })

  it('without a parameter by which it scores, and with nobody to do the work, it says that nothing is proven, and exits 1', async () => {
    const again = ['--second', 'Once more, by hand', '--into', 'HYD-210', '--assignment', 'By hand', '--prove', '--no-wait', '--name', 'By hand'] // oxfmt-ignore
    const { status, output } = await run(['tool', 'intake', handed().mail, '--yes', ...again])
    expect([status, output.includes('Whether its score comes back is not proven')], output).toEqual([1, true])
    expect(await proofOf(empty.client, empty.course, 'By hand')).toMatchObject({ state: 'published', marks: ['proven', 'proven', 'proven', 'proven', 'not_yet', 'not_yet'] }) // oxfmt-ignore
  })
})
