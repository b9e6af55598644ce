import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { AssignmentDetail, Client } from '@bathyscribe/contract'
import { CREDENTIALS, outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import type { Browser, Page } from 'playwright-core'
import { PASSWORD } from '../academy/academy.js'
import { signIn } from '../academy/browserless.js'
import { seed } from '../academy/seed.js'
import { mailOf } from '../academy/story.js'
import { openBrowser, signInBy } from '../machine/browser.js'
import { CLI, ROOT, RUN, say, Stop } from '../machine/place.js'
import { setupCodeOf, startStack, stopStack, type Running } from '../machine/stack.js'

const TARGET = join(ROOT, 'docs/screenshots')
const FOLDER = join(RUN, `pictures-${process.pid}`)
const SIZE = { width: 1280, height: 800 }

interface Scene {
  browser: Browser
  running: Running
  client: Client
  proven: AssignmentDetail
}

/** Opens a page as somebody, does something there, and takes its picture. */
type Visit = (path: string, name: string, act?: (page: Page) => Promise<void>) => Promise<void>

/** Makes the pictures of docs/screenshots anew from the demo data. Terminal views need xvfb, xterm and imagemagick. */
export async function main(): Promise<number> {
  for (const program of ['Xvfb', 'xterm', 'import'])
    if (spawnSync('which', [program]).status !== 0)
      throw new Stop('Please install: apt-get install xvfb xterm imagemagick')
  mkdirSync(TARGET, { recursive: true })
  const running = await startStack({ folder: FOLDER, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } })
  const browser = await openBrowser()
  try {
    await seed({ ...running, setupCode: setupCodeOf(FOLDER), say })
    const { client } = await signIn(running.url, 'ingrid', PASSWORD)
    const proven = await client.call('showAssignment', { params: { assignment: 'HYD-210/soundings-and-datum' } })
    const scene = { browser, running, client, proven }
    await asTechnologist(scene)
    await asInstructor(scene)
    await asLearner(scene)
    await inTerminal(scene)
    return 0
  } finally {
    await browser.close()
    await stopStack(FOLDER, { remove: true })
  }
}

async function asTechnologist(scene: Scene): Promise<void> {
  const { running, client, proven } = scene
  const technologist = await visit(scene, 'ingrid', 'light')
  await technologist('/watch', 'watch')
  await technologist('/tools/sextant-bench', 'tool')
  await technologist('/tools/register', 'register', async (page) => {
    await page.getByLabel('Paste whatever the vendor gave you').fill(mailOf(running.knotwork))
    await page.getByRole('heading', { name: 'Recognised' }).waitFor()
    await page.waitForTimeout(400)
  })
  await technologist(`/soundings/${await seenThrough(running, client, proven.id)}`, 'sounding')
  const refused = await refusedScore(running, proven.id)
  await technologist(`/wire/${refused}`, 'diagnosis')
  await technologist(`/wire/${refused}/story`, 'story')
  await technologist(`/sweeps/${await swept(running)}`, 'sweep')
  const { items } = await client.call('listCases', {})
  const { course, assignment, person } = items[0]!
  await technologist(`/courses/${course.id}/assignments/${assignment.id}/cases/${person.id}`, 'case')
  await technologist('/courses/WKR-115/gradebook', 'records-office', async (page) => {
    await page.getByRole('button', { name: 'Records office' }).click()
    await page.getByText('Report of the first watch').waitFor()
    await page.waitForTimeout(300)
  })
}

async function asInstructor(scene: Scene): Promise<void> {
  const { client, proven } = scene
  const course = `/courses/${proven.course.id}`
  const instructor = await visit(scene, 'tomas', 'light')
  await instructor(course, 'outline')
  // A tool is changed, so that the pictures show what becomes of its proofs.
  const { revision } = await client.call('showTool', { params: { tool: 'knotwork-drills' } })
  const customParameters = { term: 'autumn' }
  await client.call('changeTool', { params: { tool: 'knotwork-drills' }, body: { customParameters, revision } })
  await instructor(`${course}/assignments`, 'assignments')
  await instructor(`${course}/assignments/${proven.id}`, 'assignment')
  await instructor(`${course}/gradebook`, 'gradebook', async (page) => {
    await page.getByRole('button', { name: /O'Drevnakh, Soundings and datum/ }).click()
    await page.getByRole('heading', { name: 'Trail' }).waitFor()
    await page.waitForTimeout(500)
  })
  await instructor(`${course}/gradebook/${proven.id}/reconcile`, 'reconciliation', async (page) => {
    await page.getByText('Or paste its cells').click()
    await page.getByLabel('Cells of the export').fill(await exportOf(client, proven.id))
    await page.getByRole('button', { name: 'Compare' }).click()
    await page.getByRole('columnheader', { name: 'Why' }).waitFor()
    await page.getByRole('columnheader', { name: 'Why' }).scrollIntoViewIfNeeded()
    await page.mouse.wheel(0, 420)
    await page.waitForTimeout(400)
  })
  await instructor(`${course}/assignments/new`, 'new-assignment', async (page) => {
    await page.getByLabel('Title').fill('Reading the echo trace')
    await page.getByLabel('Points', { exact: true }).fill('25')
    await page.getByLabel('Category').selectOption('Drills')
    await page.getByLabel('Tool', { exact: true }).selectOption({ label: 'Knotwork Drills' })
    await page.getByRole('button', { name: 'Choose in Knotwork Drills' }).click()
    const shelf = page.frameLocator('iframe').frameLocator('iframe')
    await shelf.getByLabel('Soundings and datum').check()
    await shelf.getByRole('button', { name: 'Take it' }).click()
    await page.getByText('The tool says').waitFor()
    await page.waitForTimeout(600)
  })
}

async function asLearner(scene: Scene): Promise<void> {
  const { proven } = scene
  const course = `/courses/${proven.course.id}`
  const learner = await visit(scene, 'niamh', 'light')
  await learner(`${course}/assignments/${proven.id}`, 'learner', (page) =>
    page.frameLocator('iframe').frameLocator('iframe').getByRole('button', { name: 'Hand in' }).waitFor(),
  )
}

async function inTerminal({ running, client }: Scene): Promise<void> {
  const token = (
    await client.call('createToken', { body: { name: 'pictures', scopes: ['read', 'teach', 'administer'] } })
  ).token
  await terminal(running, 'terminal-assignments', token, [
    'course outline HYD-210',
    'assignment preflight NAV-120',
    'score trail HYD-210/soundings-and-datum tamar',
    'tool list',
  ])
  writeFileSync(join(FOLDER, 'mail.txt'), mailOf(running.knotwork))
  await terminal(running, 'terminal-tools', token, [
    `tool intake ${join(FOLDER, 'mail.txt')} --read`,
    'tool check knotwork-drills-spare-key',
    'tool check sextant-bench',
    'course menu HYD-210',
  ])
  spawnSync(process.execPath, [CLI, 'demo', 'faults', '--begin', '--quiet'], {
    env: { ...process.env, BATHYSCRIBE_URL: running.url, BATHYSCRIBE_TOKEN: token },
  })
  await terminal(running, 'terminal-sounding', token, ['sounding run NAV-120/knots-under-way', 'demo faults'])
}

/** A sounding by browser, all the way; a rehearsal before it. @returns the sounding */
async function seenThrough(running: Running, client: Client, assignment: string): Promise<string> {
  const { follow } = await signIn(running.url, 'tomas', PASSWORD)
  const page = await follow(`/lti/launch/${assignment}?as=test_learner`)
  await page.submit('/answers', { q0: '0', q1: '1', q2: '0' })
  let one = await client.call('runSounding', { params: { assignment }, body: { follower: 'browser' } })
  while (one.state === 'running') {
    await new Promise((resolve) => setTimeout(resolve, 300))
    one = await client.call('showSounding', { params: { id: one.id } })
  }
  return one.id
}

/** A score that the tool signs with a blank behind the secret. @returns its wire entry */
async function refusedScore(running: Running, assignment: string): Promise<string> {
  const { send } = await signIn(running.url, 'niamh', PASSWORD)
  const page = await (await send(`${running.url}/lti/launch/${assignment}`)).text()
  const resultId = /name="lis_result_sourcedid" value="([^"]*)"/.exec(page)![1]!
  const { consumerKey: key, sharedSecret } = CREDENTIALS.knotwork
  const target = { serviceUrl: `${running.url}/lti/outcomes`, resultId, key, secret: `${sharedSecret} ` }
  await sendOutcome(target, outcomeXml('replaceResult', resultId, '0.8'))
  const { client } = await signIn(running.url, 'ingrid', PASSWORD)
  return (await client.call('listWire', { query: { kind: 'outcome', outcome: 'refused', limit: 1 } })).items[0]!.id
}

/** Two sweeps over everything, with a link broken in between. @returns the second */
async function swept(running: Running): Promise<string> {
  const { client } = await signIn(running.url, 'ingrid', PASSWORD)
  const over = async () => {
    let one = await client.call('startSweep', { body: {} })
    while (one.state === 'running') {
      await new Promise((resolve) => setTimeout(resolve, 500))
      one = await client.call('showSweep', { params: { id: one.id } })
    }
    return one.id
  }
  await over()
  const tool = { params: { tool: 'plotting-table' } }
  const { revision } = await client.call('showTool', tool)
  await client.call('changeTool', { ...tool, body: { revision, sharedSecret: 'parallel-rulers' } })
  const second = await over()
  await client.call('changeTool', {
    ...tool,
    body: { revision: revision + 1, sharedSecret: CREDENTIALS.plotting.sharedSecret },
  })
  return second
}

/** What the tool's own export would hold, with a difference of every kind. */
async function exportOf(client: Client, column: string): Promise<string> {
  const { rows } = await client.call('showGradebook', { params: { course: 'HYD-210' } })
  const scored = rows.filter((row) => row.cells[column]?.points)
  const lines = scored.slice(0, 7).map((row, i) => {
    const points = Number(row.cells[column]!.points)
    const there = [points, Math.round(points), points / 100, points, points + 5, points, points][i]
    return `${row.person.username};${row.person.fullName};${there};${i === 2 ? 1 : 100}`
  })
  const unscored = rows.find((row) => !row.cells[column])!.person
  return [
    'Username;Name;Score;Max',
    ...lines,
    `${unscored.username};${unscored.fullName};80;100`,
    'gone.fishing;Gone Fishing;50;100',
  ].join('\n')
}

async function visit({ browser, running }: Scene, username: string, colorScheme: 'light' | 'dark'): Promise<Visit> {
  const context = await browser.newContext({ viewport: SIZE, colorScheme })
  const page = await context.newPage()
  await signInBy(page, running.url, username, PASSWORD)
  return async (path, name, act = () => Promise.resolve()) => {
    await page.goto(running.url + path)
    await page.waitForLoadState('networkidle').catch(() => undefined)
    await page.waitForTimeout(400)
    await act(page)
    await page.screenshot({ path: join(TARGET, `${name}.png`) })
    say(`  ${name}.png`)
  }
}

/** Commands as they look in a real terminal window. */
async function terminal(running: Running, name: string, token: string, commands: string[]): Promise<void> {
  const display = `:${90 + Math.floor(Math.random() * 9)}`
  const screen = spawn('Xvfb', [display, '-screen', '0', '1280x800x24'], { stdio: 'ignore' })
  const script = join(FOLDER, 'terminal.sh')
  const lines = commands.map(
    (command) =>
      `printf '\\033[1m$ bathyscribe ${command.replaceAll(`${FOLDER}/`, '')}\\033[0m\\n'; node ${CLI} ${command}; echo`,
  )
  writeFileSync(
    script,
    [`export BATHYSCRIBE_URL=${running.url} BATHYSCRIBE_TOKEN=${token} FORCE_COLOR=1`, ...lines, 'sleep 60'].join('\n'),
  )
  await new Promise((resolve) => setTimeout(resolve, 800))
  const look = [
    '-fa',
    'DejaVu Sans Mono',
    '-fs',
    '8',
    '-bg',
    '#fbf9f4',
    '-fg',
    '#1c2429',
    '-geometry',
    '180x58+0+0',
    '-xrm',
    'XTerm*color2: #37632e',
    '-xrm',
    'XTerm*color1: #96372a',
    '-xrm',
    'XTerm*color3: #835900',
  ]
  const window = spawn('xterm', ['-u8', ...look, '-e', 'bash', script], {
    env: { ...process.env, DISPLAY: display, LANG: 'C.UTF-8' },
    stdio: 'ignore',
  })
  await new Promise((resolve) => setTimeout(resolve, 3000 + 1500 * commands.length))
  const file = join(TARGET, `${name}.png`)
  spawnSync('import', ['-window', 'root', file], { env: { ...process.env, DISPLAY: display } })
  spawnSync('mogrify', [
    '-crop',
    '1279x799+1+1',
    '+repage',
    '-trim',
    '+repage',
    '-bordercolor',
    '#fbf9f4',
    '-border',
    '12',
    file,
  ])
  window.kill()
  screen.kill()
  rmSync(script, { force: true })
  if (existsSync(join(TARGET, `${name}.png`))) say(`  ${name}.png`)
}
