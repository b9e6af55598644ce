// What happens around scores: essays in every state, a column made twice, points set by hand, categories that weigh, results handed on.
import type { CallInput, Client } from '@bathyscribe/contract'
import { learners, PASSWORD, type Learner } from './academy.js'
import { signIn } from './browserless.js'
import { OFFICE_CLIENT } from '@bathyscribe/practice-office'

const WKR = { course: 'WKR-115' }
const MET = { course: 'MET-130' }
const ESSAYS = [
  'At two bells the wind backed to the south and we shortened sail. The glass had fallen three hundredths since midnight.',
  'Relieved at 0400. Two lights on the port bow, one of them a pilot. No remarks but rain.',
  'The log line parted at the second heaving. I spliced it, and we ran the mile again.',
  'Fog from three bells on. Sounded every two minutes, and heard one answer.',
]

export async function seedScores(url: string, client: Client, office: string): Promise<void> {
  const people = (code: string) => learners().filter((person) => person.courses.includes(code))
  await weighed(client)
  await essays(url, client, people('WKR 115'))
  await twins(url, client, people('MET 130'))
  await byHand(url)
  await client.call('setRecordsOffice', {
    body: { url: office, tokenUrl: `${office}/token`, ...OFFICE_CLIENT, everyMinutes: 60 },
  })
  const priyanka = await signIn(url, 'priyanka', PASSWORD)
  await priyanka.client.call('handOn', { params: WKR, body: {} })
}

async function weighed(client: Client): Promise<void> {
  await client.call('changeGradebook', {
    params: { course: 'HYD-210' },
    body: { weights: { Drills: '30', Projects: '30', Exam: '40' }, shownDecimals: 0 },
  })
}

/** Handed in, waiting, graded, returned with a comment: one learner each. */
async function essays(url: string, client: Client, people: Learner[]): Promise<void> {
  const tool = await client.call('showTool', { params: { tool: 'watchlog-essays' } })
  await client.call('changeTool', {
    params: { tool: tool.id },
    body: { revision: tool.revision, soundingParameters: { practice_score: '0.645' } },
  })
  const { id } = await client.call('createAssignment', {
    params: WKR,
    body: {
      title: 'Report of the first watch',
      tool: 'watchlog-essays',
      points: '12',
      category: 'Reports',
      dueAt: '2026-11-20T22:59:00.000Z',
      instructions: 'One page, in the order in which it happened.',
      publish: true,
    },
  })
  for (const [i, text] of ESSAYS.entries()) {
    const learner = await signIn(url, people[i]!.username, PASSWORD)
    const page = await learner.follow(`/lti/launch/${id}?target=frame`)
    await page.submit('/hand-in', { text })
  }
  await (await signIn(url, people[4]!.username, PASSWORD)).follow(`/lti/launch/${id}?target=frame`)
  const priyanka = await signIn(url, 'priyanka', PASSWORD)
  const marks = [
    {
      facts: '5',
      seamanship: '4',
      language: '2',
      comment: 'Clear, and in its order. Say who gave the order to shorten.',
    },
    { facts: '3', seamanship: '2.5', language: '1', comment: 'Which lights, and how did they bear?' },
  ]
  const grade = (text: string, more: Record<string, string>) =>
    priyanka.follow(`/lti/launch/${id}?target=frame`).then((page) => {
      const form = page.text.split('<form').find((part) => part.includes('/grade"') && page.text.includes(text))
      const at = page.text.indexOf(text)
      const student = /name="student" value="([^"]+)"/.exec(page.text.slice(at))?.[1]
      if (!form || !student) throw new Error('The essay is not there to be graded.')
      return page.submit('/grade', { ...more, student, show: 'on' })
    })
  for (const [i, more] of marks.entries()) await grade(ESSAYS[i]!.slice(0, 30), more)
  const waiting = await signIn(url, people[marks.length]!.username, PASSWORD)
  await waiting.client.call('reportMissingScore', {
    params: { assignment: id },
    body: { said: 'I handed in my report before it was due, and see no points yet.' },
  })
}

/** Signal Mast makes a column of its own beside the assignment for the same round. */
async function twins(url: string, client: Client, people: Learner[]): Promise<void> {
  const { id } = await client.call('createAssignment', {
    params: MET,
    body: {
      title: 'Wind and sea, round 2',
      tool: 'signal-mast',
      points: '5',
      category: 'Observations',
      customParameters: { topic: 'Wind and sea', round: '2' },
      publish: true,
    },
  })
  const maren = await signIn(url, 'maren', PASSWORD)
  const mast = await maren.follow(`/lti/launch/${id}?target=frame`)
  for (const person of people.slice(0, 5)) {
    const page = await (await signIn(url, person.username, PASSWORD)).follow(`/lti/launch/${id}?target=frame`)
    await page.submit('/observe', { text: 'West, force five, and the sea rough.' })
  }
  const again = await maren.follow(`/lti/launch/${id}?target=frame`)
  await again.submit('/send', { own: 'yes' })
  if (!mast.text.includes('round 2')) throw new Error('The mast did not open.')
}

/** By the teaching assistant: an instructor signs in often enough on this day. */
async function byHand(url: string): Promise<void> {
  const oren = await signIn(url, 'oren', PASSWORD)
  const act = (person: string, body: CallInput<'gradeByHand'>['body']) =>
    oren.client.call('gradeByHand', { params: { assignment: 'HYD-210/soundings-and-datum', person }, body })
  await act('niamh', { act: 'override', points: '92', comment: 'Datum redrawn at the desk; well argued.' })
  await act('layan', { act: 'exempt' })
}
