import { SIGN_ON_CLIENT, SIGN_ON_HANDLE } from '@bathyscribe/practice-sign-on'
// Loads the demo scenario through the product's own interfaces: what stands in the records then is what really happened.
import {
  ASSIGNMENTS,
  ASSISTANT,
  COURSES,
  fullName,
  INSTRUCTORS,
  learners,
  PASSWORD,
  TECHNOLOGIST,
  UNITS,
  WELCOME,
  type AssignmentOfDemo,
  type Units,
} from './academy.js'
import { answerDrill, openAssignment, signIn } from './browserless.js'
import { seedContent } from './seed-content.js'
import { seedScores } from './seed-scores.js'
import { createClient, type Client } from '@bathyscribe/contract'
import { CREDENTIALS } from '@bathyscribe/practice-tools'
import type { Say } from '../machine/place.js'
import type { Addresses } from '../machine/stack.js'

const key = (code: string) => code.replaceAll(' ', '-')
type MadeAssignment = AssignmentOfDemo & { id: string }
interface Named {
  username: string
  givenName: string
  familyName: string
}

const TERM = 'Autumn 2026'
const TERM_DATES = { startsAt: '2026-08-17T00:00:00.000Z', endsAt: '2027-01-31T00:00:00.000Z' }

/** Fills an empty service with the academy of the demo. */
export async function seed({
  url,
  setupCode,
  say,
  ...tools
}: Addresses & { url: string; setupCode: string; say: Say }): Promise<void> {
  const anonymous = createClient({ baseUrl: url, headers: () => ({}) })
  await anonymous.call('setUp', { body: { code: setupCode, ...TECHNOLOGIST, password: PASSWORD } })
  const { client } = await signIn(url, TECHNOLOGIST.username, PASSWORD)

  say('  courses and people')
  for (const course of COURSES)
    await client.call('createCourse', {
      body: {
        ...course,
        term: TERM,
        timeZone: 'Europe/Oslo',
        startsAt: TERM_DATES.startsAt,
        endsAt: TERM_DATES.endsAt,
        sourcedId: `skerrow-${key(course.code).toLowerCase()}`,
      },
    })
  await seedPeople(client)

  say('  tools and assignments')
  await registerTools(client, tools)
  const units = await makeUnits(client)
  const made: MadeAssignment[] = []
  for (const wanted of ASSIGNMENTS) {
    const { course, title, points, category, custom, publish } = wanted
    const tool = TOOL_SLUGS[wanted.tool ?? 'knotwork']
    const body = {
      title,
      points,
      category,
      customParameters: custom,
      publish,
      tool,
      unit: wanted.unit === undefined ? null : units.get(`${course} ${wanted.unit}`)!,
      dueAt: wanted.due ?? null,
      instructions: instructionsFor(title),
    }
    const { id } = await client.call('createAssignment', { params: { course: key(course) }, body })
    made.push({ ...wanted, id })
  }

  await fillMenus(url, client)
  await seedContent(url, client, units)

  say('  learners at work')
  for (const assignment of made) await work(url, assignment)
  await seedScores(url, client, tools.office)
  await addProvider(client, tools.signOn)
  say('  soundings')
  for (const assignment of made.filter((one) => one.sound))
    await client.call('runSounding', { params: { assignment: assignment.id } })
  await soundingsDone(client)
}

/** Where people of the academy sign in with the account that they have there. */
async function addProvider(client: Client, issuer: string): Promise<void> {
  await client.call('addIdentityProvider', {
    body: { handle: SIGN_ON_HANDLE, name: 'Skerrow account', issuer, ...SIGN_ON_CLIENT },
  })
}

/** Units by course and title, with words of welcome. */
async function makeUnits(client: Client): Promise<Units> {
  const units: Units = new Map()
  for (const { course, titles, hidden = [] } of UNITS)
    for (const title of titles) {
      const body = { title, published: !hidden.includes(title) }
      const { id } = await client.call('addUnit', { params: { course: key(course) }, body })
      units.set(`${course} ${title}`, id)
    }
  for (const [course, welcome] of Object.entries(WELCOME))
    await client.call('changeWelcome', { params: { course: key(course) }, body: { revision: 1, welcome } })
  return units
}

function instructionsFor(title: string): string {
  return `Work through “${title}” on your own. You may hand in again until the due date; the last score counts.`
}

async function seedPeople(client: Client): Promise<void> {
  const create = (person: Named) =>
    client.call('createPerson', {
      body: {
        username: person.username,
        givenName: person.givenName,
        familyName: person.familyName,
        fullName: fullName(person),
        email: `${person.username}@skerrow.example`,
        password: PASSWORD,
      },
    })
  const enrol = (course: string, person: string, role: 'learner' | 'instructor' | 'teaching_assistant') =>
    client.call('enrol', { params: { course: key(course) }, body: { person, role } })
  for (const person of INSTRUCTORS) {
    await create(person)
    for (const course of person.courses) await enrol(course, person.username, 'instructor')
  }
  await create(ASSISTANT)
  await enrol(ASSISTANT.course, ASSISTANT.username, 'teaching_assistant')
  const all = learners()
  for (const person of all) {
    await create(person)
    for (const course of person.courses) await enrol(course, person.username, 'learner')
  }
  // One who dropped; the one who joins late is enrolled last.
  await client.call('changeEnrolment', {
    params: { course: 'HYD-210', person: all[20]!.username },
    body: { state: 'dropped' },
  })
  const late = { username: 'late.jorunn', givenName: 'Jorunn', familyName: 'Etterkoma' }
  await create(late)
  await enrol('HYD 210', late.username, 'learner')
}

const TOOL_SLUGS = {
  knotwork: 'knotwork-drills',
  spare: 'knotwork-drills-spare-key',
  sextant: 'sextant-bench',
} as const

async function registerTools(client: Client, tools: Addresses): Promise<void> {
  await registerDrills(client, tools.knotwork)
  await registerByHand(client, tools)
  await registerThemselves(client, tools)
}

async function registerDrills(client: Client, knotwork: string): Promise<void> {
  const common = {
    consumerKey: CREDENTIALS.knotwork.consumerKey,
    launchUrl: `${knotwork}/launch`,
    disclosure: 'name' as const,
    documentTarget: 'frame' as const,
    soundingParameters: { practice_score: '0.645' },
    features: ['scores' as const, 'picker' as const],
    pickerUrl: `${knotwork}/shelf`,
    description: 'Three questions on knots, soundings or clouds, scored at once.',
  }
  await client.call('registerTool', {
    body: {
      ...common,
      name: 'Knotwork Drills',
      sharedSecret: CREDENTIALS.knotwork.sharedSecret,
      note: 'Credentials copied from Knotwork’s front page by Ingrid, week 34.',
    },
  })
  await client.call('registerTool', {
    body: {
      ...common,
      name: 'Knotwork Drills (spare key)',
      sharedSecret: 'halyard-3-bowline-fid-7',
      note: 'Secret read over the telephone.',
      secondReason: 'A spare pair for the navigation course',
    },
  })
}

async function registerByHand(client: Client, { harbour, chandlery, plotting }: Addresses): Promise<void> {
  await client.call('registerTool', {
    body: {
      name: 'Harbour Desk',
      ...CREDENTIALS.harbour,
      launchUrl: `${harbour}/launch`,
      description: 'The harbour’s front desk: berths, radio and watches of the class.',
      disclosure: 'name',
      features: [],
      firstEntry: 'course',
      placements: [{ place: 'course_menu' }],
    },
  })
  await client.call('registerTool', {
    body: {
      name: 'Chandlery Shelf',
      ...CREDENTIALS.chandlery,
      launchUrl: `${chandlery}/launch`,
      description: 'Lists of the gear that lies in the lockers on deck. A locker opens under its exact label only.',
      features: [],
      exactTitles: ['Chandlery Shelf', 'Deck stores', 'Foul weather gear'],
      placements: [{ place: 'course_menu', target: 'window' }, { place: 'unit_item' }, { place: 'assignment' }],
    },
  })
  await client.call('registerTool', {
    body: {
      name: 'Plotting Table',
      ...CREDENTIALS.plotting,
      launchUrl: `${plotting}/launch`,
      description: 'Chart sheets, each at an address of its own.',
      disclosure: 'name',
      features: ['scores'],
      soundingParameters: { practice_score: '0.645' },
      learnerText: 'Plot on paper first. You may hand in once more if the table was set wrongly.',
    },
  })
}

/** Tools of LTI 1.3, which are let in and say themselves what they are. */
async function registerThemselves(client: Client, tools: Addresses): Promise<void> {
  for (const address of [tools.sextant, tools.signal, tools.lantern, tools.watchlog, tools.tally]) {
    const invitation = await client.call('inviteTool', { body: { address: `${address}/register`, open: true } })
    const waiting = await client.call('showTool', { params: { tool: invitation.tool!.id } })
    await client.call('approveTool', {
      params: { tool: waiting.id },
      body: { revision: waiting.revision, disclosure: 'name' },
    })
  }
  const bench = await client.call('showTool', { params: { tool: 'sextant-bench' } })
  await client.call('changeTool', {
    params: { tool: bench.id },
    body: { revision: bench.revision, soundingParameters: { practice_score: '0.645' } },
  })
  const mast = await client.call('showTool', { params: { tool: 'signal-mast' } })
  await client.call('changeTool', {
    params: { tool: mast.id },
    body: { revision: mast.revision, firstEntry: 'link', soundingParameters: { practice_score: '0.645' } },
  })
}

/** Menus of three courses; in one of them the harbour desk still waits for its instructor. */
async function fillMenus(url: string, client: Client): Promise<void> {
  const add = (course: string, tool: string, more: { label?: string; audience?: 'instructors' } = {}) =>
    client.call('addMenuEntry', { params: { course: key(course) }, body: { tool, ...more } })
  const desk = await add('HYD 210', 'harbour-desk')
  await add('HYD 210', 'chandlery-shelf', { label: 'Deck stores' })
  await add('NAV 120', 'harbour-desk', { label: 'Harbour' })
  await add('MET 130', 'chandlery-shelf', { label: 'Foul weather gear' })
  await add('MET 130', 'chandlery-shelf', { label: 'Weather atlas, for instructors', audience: 'instructors' })
  const tomas = await signIn(url, 'tomas', PASSWORD)
  await openAssignment(tomas, desk.id)
}

async function work(url: string, { id, course, worked = 0, opened = 0 }: MadeAssignment): Promise<void> {
  const people = learners().filter((person) => person.courses.includes(course))
  for (const [i, person] of people.slice(0, worked + opened).entries()) {
    const session = await signIn(url, person.username, PASSWORD)
    const page = await openAssignment(session, id)
    if (i < worked) await answerDrill(page, CHOICES[i % 3]!)
  }
}

/** All right, one wrong, two wrong, in turn: the drills' right answers are 0, 1, 2. */
const CHOICES = [
  [0, 1, 2],
  [0, 1, 0],
  [0, 0, 0],
]

async function soundingsDone(client: Client): Promise<void> {
  for (let i = 0; i < 200; i++) {
    const { items } = await client.call('listSoundings', {})
    if (items.every((one) => one.state !== 'running')) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error('The soundings of the demo did not end.')
}
