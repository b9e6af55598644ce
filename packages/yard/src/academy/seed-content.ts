// What instructors make of a course, through the product's own interfaces: pages, files, groups, and content picked in the tools' own pickers.
import type { CallInput, Client } from '@bathyscribe/contract'
import { signIn, type Page, type Person } from './browserless.js'
import { PASSWORD, type Units } from './academy.js'

type InCourse = { course: string }
const HYD = { course: 'HYD-210' }
const NAV = { course: 'NAV-120' }
const TIDES = `Tidal heights above chart datum, Skerrow, in metres.

00:00  0.8    06:00  3.1    12:00  0.9    18:00  3.0

Reduce each sounding by the height at its time.
`

export async function seedContent(url: string, client: Client, units: Units): Promise<void> {
  const unit = (title: string, course = 'HYD 210') => units.get(`${course} ${title}`)!
  const tomas = await signIn(url, 'tomas', PASSWORD)
  const file = await tomas.client.upload('HYD-210', new Blob([TIDES]), 'Tides at Skerrow.txt')
  await tomas.client.call('addGroupSet', { params: HYD, body: { name: 'Survey boats', groups: 4 } })

  const place = (params: InCourse, body: CallInput<'addUnitItem'>['body']) =>
    tomas.client.call('addUnitItem', { params, body })
  await place(HYD, {
    kind: 'page',
    unit: unit('Lead line and rope'),
    title: 'How a lead line is marked',
    body: '<p>Marks are read by eye and by hand:</p><ul><li>2 fathoms: two strips of leather</li><li>3 fathoms: three strips</li><li>5 fathoms: white</li></ul><p>What lies between is called by the eye, and said so.</p>',
    published: true,
    pinned: true,
  })
  await place(HYD, { kind: 'file', unit: unit('Reducing soundings'), file: file.id, published: true })
  await place(HYD, { kind: 'heading', unit: unit('Planning a survey'), title: 'To read' })
  await place(HYD, {
    kind: 'tool_link',
    unit: unit('Planning a survey'),
    tool: 'chandlery-shelf',
    title: 'Deck stores',
    published: true,
  })

  const notes = await pick(tomas, HYD, 'lantern-margins', (page) =>
    page.submit('/desk/take', { file: file.id, by: 'group' }),
  )
  await make(tomas, HYD, notes, {
    tool: 'lantern-margins',
    title: 'Corrections to the tides',
    points: '10',
    category: 'Projects',
    unit: unit('Reducing soundings'),
  })
  const drift = await pick(tomas, NAV, 'sextant-bench', (page) => page.submit('/shelf/take', { exercise: 'drift' }))
  await make(tomas, NAV, drift, {
    tool: 'sextant-bench',
    title: 'Set and drift',
    points: '10',
    category: 'Chart work',
    unit: unit('By the sun', 'NAV 120'),
  })
  const { addresses } = await plottingSheets(client)
  await tomas.client.call('createAssignment', {
    params: NAV,
    body: {
      title: 'Running fix',
      tool: 'plotting-table',
      points: '15',
      category: 'Chart work',
      unit: unit('On the chart', 'NAV 120'),
      launchUrl: (await tomas.client.call('readAddress', { params: NAV, body: { address: addresses['running-fix']! } }))
        .cleaned,
      publish: true,
    },
  })
  await tomas.client.call('createAssignment', {
    params: NAV,
    body: {
      title: 'Wind and sea',
      tool: 'signal-mast',
      points: '5',
      category: 'Drills',
      unit: unit('On deck', 'NAV 120'),
    },
  })
}

/** The addresses of Plotting Table's sheets as an author copies them out of the browser. */
async function plottingSheets(client: Client): Promise<{ addresses: Record<string, string> }> {
  const { launchUrl } = await client.call('showTool', { params: { tool: 'plotting-table' } })
  const page = await (await fetch(launchUrl!.replace(/launch$/, 'sheets'))).text()
  const all = [...page.matchAll(/<code>([^<]*\/plot\/([a-z-]+)\?[^<]*)<\/code>/g)]
  return {
    addresses: Object.fromEntries(all.map(([, address = '', id = '']) => [id, address.replaceAll('&amp;', '&')])),
  }
}

async function make(
  who: Person,
  params: InCourse,
  picking: string,
  body: Omit<CallInput<'createAssignment'>['body'], 'content' | 'publish'>,
): Promise<void> {
  await who.client.call('createAssignment', { params, body: { ...body, content: { picking, item: 0 }, publish: true } })
}

/** Opens a tool's picker as a browser would, chooses by posting a form of its page, and lets the answer come back. @returns the picking */
async function pick(
  who: Person,
  params: InCourse,
  tool: string,
  choose: (page: Page) => Promise<Page>,
): Promise<string> {
  const { id } = await who.client.call('openPicker', { params, body: { tool } })
  let page = await who.follow(`/lti/picker/${id}/open`)
  page = await choose(page)
  await page.submit(undefined, {})
  const { state, code } = await who.client.call('showPicking', { params: { ...params, picking: id } })
  if (state !== 'answered') throw new Error(`The picker of ${tool} ended as ${state} (${code}).`)
  return id
}
