// Loads the demo scenario through the product's own interfaces: what stands in the records then is what really happened.
import { ASSIGNMENTS, ASSISTANT, COURSES, fullName, INSTRUCTORS, learners, PASSWORD, TECHNOLOGIST } from './academy.mjs'
import { answerDrill, openAssignment, signIn } from './browserless.mjs'
import { createClient } from '@bathyscribe/contract'
import { CREDENTIALS } from '@bathyscribe/practice-tools'

const key = (code) => code.replaceAll(' ', '-')
const TERM = 'Autumn 2026'

/** @param {{ url: string, knotwork: string, harbour: string, chandlery: string, sextant: string, setupCode: string, say: (line: string) => void }} options */
export async function seed({ url, setupCode, say, ...tools }) {
  const anonymous = createClient({ baseUrl: url, headers: () => ({}) })
  await anonymous.call('setUp', { body: { code: setupCode, ...TECHNOLOGIST, password: PASSWORD } })
  const { client } = await signIn(url, TECHNOLOGIST.username, PASSWORD)

  say('  courses and people')
  for (const course of COURSES)
    await client.call('createCourse', {
      body: { ...course, term: TERM, timeZone: 'Europe/Oslo', sourcedId: `skerrow-${key(course.code).toLowerCase()}` },
    })
  await seedPeople(client)

  say('  tools and assignments')
  await registerTools(client, tools)
  const made = []
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
      instructions: instructionsFor(title),
    }
    const { id } = await client.call('createAssignment', { params: { course: key(course) }, body })
    made.push({ ...wanted, id })
  }

  await fillMenus(url, client)

  say('  learners at work')
  for (const assignment of made) await work(url, assignment)
  say('  soundings')
  for (const assignment of made.filter((one) => one.sound))
    await client.call('runSounding', { params: { assignment: assignment.id } })
  await soundingsDone(client)
}

function instructionsFor(title) {
  return `Work through “${title}” on your own. You may hand in again until the due date; the last score counts.`
}

async function seedPeople(client) {
  const create = (person) =>
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
  const enrol = (course, person, role) =>
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
    params: { course: 'HYD-210', person: all[20].username },
    body: { state: 'dropped' },
  })
  const late = { username: 'late.jorunn', givenName: 'Jorunn', familyName: 'Etterkoma' }
  await create(late)
  await enrol('HYD 210', late.username, 'learner')
}

const TOOL_SLUGS = { knotwork: 'knotwork-drills', spare: 'knotwork-drills-spare-key', sextant: 'sextant-bench' }

async function registerTools(client, { knotwork, harbour, chandlery, sextant }) {
  const common = {
    consumerKey: CREDENTIALS.knotwork.consumerKey,
    launchUrl: `${knotwork}/launch`,
    disclosure: 'name',
    documentTarget: 'frame',
    soundingParameters: { practice_score: '0.645' },
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
      description: 'Books and charts for reading on board. Opens only under the exact title of a shelf.',
      features: [],
      placements: [{ place: 'course_menu', target: 'window' }, { place: 'unit_item' }],
    },
  })
  const invitation = await client.call('inviteTool', { body: { address: `${sextant}/register`, open: true } })
  const waiting = await client.call('showTool', { params: { tool: invitation.tool.id } })
  await client.call('approveTool', {
    params: { tool: waiting.id },
    body: { revision: waiting.revision, disclosure: 'name' },
  })
}

/** Menus of three courses; in one of them the harbour desk still waits for its instructor. */
async function fillMenus(url, client) {
  const add = (course, tool, more = {}) =>
    client.call('addMenuEntry', { params: { course: key(course) }, body: { tool, ...more } })
  const desk = await add('HYD 210', 'harbour-desk')
  await add('HYD 210', 'chandlery-shelf', { label: 'Pilot Books' })
  await add('NAV 120', 'harbour-desk', { label: 'Harbour' })
  await add('MET 130', 'chandlery-shelf', { label: 'Weather Atlas' })
  await add('MET 130', 'chandlery-shelf', { label: 'Weather atlas, for instructors', audience: 'instructors' })
  const tomas = await signIn(url, 'tomas', PASSWORD)
  await openAssignment(tomas, desk.id)
}

async function work(url, { id, course, worked = 0, opened = 0, custom }) {
  const people = learners().filter((person) => person.courses.includes(course))
  for (const [i, person] of people.slice(0, worked + opened).entries()) {
    const session = await signIn(url, person.username, PASSWORD)
    const page = await openAssignment(session, id)
    if (i < worked) await answerDrill(page, choicesFor(custom, i))
  }
}

/** All right, one wrong, two wrong, in turn: the drills' right answers are 0, 1, 2. */
function choicesFor(_custom, i) {
  return [
    [0, 1, 2],
    [0, 1, 0],
    [0, 0, 0],
  ][i % 3]
}

async function soundingsDone(client) {
  for (let i = 0; i < 200; i++) {
    const { items } = await client.call('listSoundings', {})
    if (items.every((one) => one.state !== 'running')) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error('The soundings of the demo did not end.')
}
