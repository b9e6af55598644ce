import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { AddressAnswer, Gradebook } from '@bathyscribe/contract'
import { CREDENTIALS } from '@bathyscribe/practice-tools'
import { answerDrill, openAssignment, signIn } from './browserless.js'
import { PASSWORD } from './academy.js'
import { processOf, type Run } from '../machine/command.js'
import { say as sayOut, type Say } from '../machine/place.js'
import { setupCodeOf, startStack, stopStack, type Addresses, type Running } from '../machine/stack.js'

const GOOD_SECRET = CREDENTIALS.knotwork.sharedSecret
/** What the vendor's support writes, with a hidden space and quotes copied along. */
export const mailOf = (knotwork: string) => `Subject: LTI credentials for Knotwork Drills

Dear Ingrid,

LTI is enabled for the Skerrow Maritime Academy now:

  Consumer key:  ${CREDENTIALS.knotwork.consumerKey}\u200b
  Shared secret: "${GOOD_SECRET}"
  Launch URL:    ${knotwork}/launch

Kind regards,
Knotwork support
`
/** Choices in the drill “Soundings and datum”, and what they bring of 100 points. */
const LEARNERS = [
  { username: 'niamh', name: "Niamh O'Drevnakh", choices: [0, 1, 2], points: '100' },
  { username: 'tamar', name: 'თამარ ზღვისპირელი', choices: [0, 1, 0], points: '66.67' },
  { username: 'bjarte', name: 'Bjarte Havelaarsen', choices: [0, 0, 0], points: '33.33' },
]

/**
 * The example story: one assignment from the vendor's credentials to the gradebook, by command line, on throw-away data.
 * @param execute runs one command
 * @returns the exit code: 0 only when every score is in the gradebook
 */
export async function runStory(folder: string, say: Say = sayOut, execute: Run = processOf): Promise<number> {
  say('Starting on throw-away data and free ports …')
  const running = await startStack({ folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } })
  const story = createStory(running, folder, say, execute)
  try {
    await tell(story)
    say(`\n● ${story.commands} commands, every one as told. Every score is in the gradebook.`)
    return 0
  } catch (error) {
    say(`\n✕ ${(error as Error).message}`)
    return 1
  } finally {
    await stopStack(folder, { remove: true })
  }
}

async function tell(story: Story): Promise<void> {
  await setUp(story)
  await prove(story)
  await diagnose(story)
  await register(story)
  await makeTerm(story)
  await scores(story)
}

/** The administrator, a course, and a tool out of a mail. */
async function setUp(story: Story): Promise<void> {
  const { run, heading, folder, knotwork } = story
  heading('The first administrator, with the code that the service printed')
  mkdirSync(join(folder, 'cli'), { recursive: true })
  const codeFile = join(folder, 'code')
  writeFileSync(codeFile, setupCodeOf(folder))
  await run(
    [
      'person',
      'set-up',
      '--username',
      'ingrid',
      '--full-name',
      'Ingrid Valesdottir',
      '--code-file',
      codeFile,
      '--password-file',
      '-',
    ],
    { input: PASSWORD },
  )
  await run(['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], { input: PASSWORD })

  heading('A course, its instructor and its learners')
  await run(['course', 'create', 'HYD 210', '--title', 'Hydrographic Surveying', '--category', 'Drills', 'Projects'])
  await run(['person', 'create', 'tomas', '--full-name', 'Tomas Okaforlind', '--password-file', '-'], {
    input: PASSWORD,
  })
  await run(['person', 'enrol', 'tomas', 'HYD-210', '--as', 'instructor'])
  for (const { username, name } of LEARNERS) {
    await run(['person', 'create', username, '--full-name', name, '--password-file', '-'], { input: PASSWORD })
    await run(['person', 'enrol', username, 'HYD-210'])
  }

  heading('The technologist pastes the mail of the vendor’s support, hidden spaces and all: one confirmation')
  await run(['tool', 'intake', '-', '--read'], { input: mailOf(knotwork), output: /U\+200B/ })
  await run(['tool', 'intake', '-', '--sees', 'name', '--yes'], { input: mailOf(knotwork), output: /Registered/ })
  await run(['tool', 'change', 'knotwork-drills', '--sounding', 'practice_score=0.645'])
  const byHand = ['tool', 'register', '--name', 'Knotwork Drills', '--key', 'skerrow-knots', '--secret-file', '-', '--launch-url', `${knotwork}/launch`] // oxfmt-ignore
  await run(byHand, { input: `${GOOD_SECRET} `, exit: 1, output: /secret has spaces/ })
  await run(byHand, { input: GOOD_SECRET, exit: 1, output: /has the same key and launch address/ })
  await run(['tool', 'check', 'knotwork-drills'])
}

/** An assignment, sounded, worked on, and in the gradebook. */
async function prove(story: Story): Promise<void> {
  const { run, as, heading, say, url } = story
  heading('The instructor makes an assignment of it')
  await as('tomas')
  await run(['assignment', 'create', 'HYD-210', '--title', 'Soundings and datum', '--tool', 'knotwork-drills', '--points', '100', '--category', 'Drills', '--custom', 'drill=soundings', '--publish'], { output: /●/ }) // oxfmt-ignore
  await run(['assignment', 'list', 'HYD-210'], { output: /●●●○○○/ })

  heading('A sounding proves the whole way before any learner goes it')
  await run(['sounding', 'run', 'HYD-210/soundings-and-datum'], { output: /0\.645 of 1 × 100 points = 64\.5/ })

  heading('Three learners open it in their browsers and hand in')
  const shown = await run(['assignment', 'show', 'HYD-210/soundings-and-datum', '--json'], { silent: true })
  const { id } = JSON.parse(shown) as { id: string }
  for (const { username, name, choices } of LEARNERS) {
    const page = await openAssignment(await signIn(url, username, PASSWORD), id)
    const result = await answerDrill(page, choices)
    say(`  ${name}: ${/id="sent">([^<]*)</.exec(result.text)?.[1]}`)
  }
  await run(['gradebook', 'show', 'HYD-210'])
  await run(['score', 'trail', 'HYD-210/soundings-and-datum', 'tamar'], {
    output: /0\.6667 of 1 × 100 points = 66\.67, shown as 67/,
  })
  await run(['assignment', 'show', 'HYD-210/soundings-and-datum'], { output: /recorded/ })
  const entries = await run(['wire', 'list', '--course', 'HYD-210', '--kind', 'outcome', '--limit', '3'], {
    output: /recorded/,
  })
  await run(['wire', 'show', /^(\d+) /m.exec(entries)![1]!], { output: /replaceResult/ })
}

/** What is wrong is named: by a sounding, by a sweep, by a pasted message. */
async function diagnose(story: Story): Promise<void> {
  const { run, as, heading, knotwork } = story
  heading('The same tool with a secret that was misheard: the sounding names the secret')
  await as('ingrid')
  await run(['tool', 'register', '--name', 'Knotwork Drills (spare key)', '--key', 'skerrow-knots', '--secret-file', '-', '--launch-url', `${knotwork}/launch`, '--second', 'A spare pair'], { input: 'halyard-3-bowline-fid-7' }) // oxfmt-ignore
  await run(['assignment', 'create', 'HYD-210', '--title', 'Knots under way', '--tool', 'knotwork-drills-spare-key', '--points', '10', '--category', 'Drills', '--publish']) // oxfmt-ignore
  await run(['sounding', 'run', 'HYD-210/knots-under-way'], { exit: 1, output: /The shared secret is wrong/ })
  await run(['sounding', 'sweep', '--course', 'HYD-210'], {
    exit: 1,
    output: /The shared secret is wrong/,
  })
  await run(['tool', 'change', 'knotwork-drills-spare-key', '--secret-file', '-', '--sounding', 'practice_score=1'], {
    input: GOOD_SECRET,
  })
  await run(['sounding', 'run', 'HYD-210/knots-under-way'], { output: /pass/ })

  heading('A sweep sounds every link of a course, and says what has changed since the one before')
  await run(['sounding', 'sweep', '--course', 'HYD-210', '--json'], { silent: true, output: /"fixed": 1/ })
  await run(['sounding', 'sweeps'], { output: /HYD 210/ })
  await run(['sounding', 'schedule', '--every', 'day', '--course', 'HYD-210'], { output: /HYD 210, nightly/ })

  heading('A message from a tool’s log, explained')
  await run(['wire', 'explain', '-'], {
    input:
      'POST&https%3A%2F%2Fdrills.skerrow.example%2Flaunch&context_label%3DHYD%2520210%26oauth_nonce%3Dof-somebody-else',
    output: /No message that is still kept carries its nonce/,
  })
  await run(['person', 'mail'], { output: /This service sends no mail/ })
  await run(['assignment', 'list', 'HYD-210'], { output: /●●●●●●[\s\S]*●●●●●●/ })
}

/** Tools by a configuration address, and by themselves. */
async function register(story: Story): Promise<void> {
  const { run, as, heading, harbour, sextant } = story
  heading('A tool at a configuration address, with its pair in the same text; it goes into the course’s menu')
  const pair = `Key: ${CREDENTIALS.harbour.consumerKey}\nSecret: ${CREDENTIALS.harbour.sharedSecret}\n`
  await run(['tool', 'intake', `${harbour}/config.xml`, '--read'], {
    output: /Still missing: consumer key, shared secret/,
  })
  await run(['tool', 'intake', '-', '--yes', '--sees', 'name', '--name', 'Harbour Desk'], {
    input: `${pair}Launch URL: ${harbour}/launch`,
  })
  await run(['tool', 'change', 'harbour-desk', '--first-entry', 'course', '--no-scores'])
  await run(['tool', 'check', 'harbour-desk'], { output: /both ends agree/ })
  await as('tomas')
  await run(['course', 'catalogue', 'HYD-210', '--search', 'harbour'])
  await run(['course', 'menu-add', 'HYD-210', 'harbour-desk'], { output: /waiting/ })
  await run(['course', 'menu-change', 'HYD-210', '1', '--label', 'Harbour'], { output: /Harbour/ })
  await run(['tool', 'places', 'harbour-desk', 'HYD-210'], { output: /● +course menu +Harbour/ })

  heading('A tool that registers itself: read, let in, approved, checked, launched by LTI 1.3')
  await as('ingrid')
  await run(['tool', 'intake', `${sextant}/register`, '--yes', '--sees', 'name'], { output: /Approved/ })
  await run(['tool', 'check', 'sextant-bench'], { output: /sends the browser back to us with the right parameters/ })
  await run(['tool', 'preview', 'sextant-bench', 'HYD-210', '--person', 'niamh'], { output: /Kept back/ })
  await run(['assignment', 'create', 'HYD-210', '--title', 'Noon altitude', '--tool', 'sextant-bench', '--points', '20', '--category', 'Drills', '--publish']) // oxfmt-ignore
  for (const who of ['instructor', 'test_learner'])
    await run(['launch', 'try', 'HYD-210/noon-altitude', '--as', who], { output: /accepted/ })
  // Nobody does its work, so whether its score comes back is not proven, and that is said.
  await run(['sounding', 'run', 'HYD-210/noon-altitude'], {
    exit: 1,
    output: /launch test learner +pass[^]*comes back is not proven/,
  })
}

/** A term in one command. */
async function makeTerm(story: Story): Promise<void> {
  const { run, as, heading, expect, plotting } = story
  heading(
    'A term in one command: units, thirty assignments from a table, twice; preflight; an address that carried a session',
  )
  await as('tomas')
  await run(['course', 'unit-add', 'HYD-210', 'Lead line and rope', '--publish'])
  const term = `\ufefftitle;points;due;unit;custom.drill\r\n${Array.from({ length: 30 }, (_, i) => `Drill ${i + 1};${i + 5};2026-12-${String((i % 28) + 1).padStart(2, '0')};Term work;part${i}`).join('\r\n')}`
  const fromTable = [
    'assignment',
    'create',
    'HYD-210',
    '--from',
    '-',
    '--tool',
    'knotwork-drills',
    '--category',
    'Drills',
  ]
  await run([...fromTable, '--check'], { input: term, output: /Only looked at, nothing made: 30 new/ })
  await run(fromTable, { input: term, output: /Done: 30 new/, silent: true })
  await run(fromTable, { input: term, output: /0 new, 0 changed, 30 as they were/, silent: true })
  await run(fromTable, { input: 'title,points\nDrill 31,=1+1', exit: 1, output: /holds a formula/ })
  await run(['assignment', 'preflight', 'HYD-210/drill-1'])
  await run(['assignment', 'delete', 'HYD-210/drill-30'], { output: /Bring it back/ })
  await run(['assignment', 'restore', 'HYD-210/drill-30'], { output: /is back/ })
  await run(['course', 'item-add', 'HYD-210', 'Lead line and rope', '--heading', 'Before the first day'])
  await run(['course', 'outline', 'HYD-210'], { output: /Term work/ })
  await run(['course', 'groups-add', 'HYD-210', 'Boats', '--random', '2'], { output: /2 groups/ })
  await as('ingrid')
  const table = ['tool', 'register', '--name', 'Plotting Table', '--key', CREDENTIALS.plotting.consumerKey, '--secret-file', '-', '--launch-url', `${plotting}/launch`, '--sounding', 'practice_score=0.645', '--sees', 'name'] // oxfmt-ignore
  await run(table, { input: CREDENTIALS.plotting.sharedSecret })
  await as('tomas')
  const pasted = `${plotting}/plot/running-fix?edition=4&sid=q7ZkLm9xR2vT8bWc4&author=tomas`
  const answer = await run(['assignment', 'address', 'HYD-210', pasted, '--json'], { silent: true })
  const read = JSON.parse(answer) as AddressAnswer
  expect(
    read.cleaned === `${plotting}/plot/running-fix?edition=4` && read.tools[0]?.slug === 'plotting-table',
    'The pasted address was not read.',
  )
  await run(['assignment', 'create', 'HYD-210', '--title', 'Running fix', '--tool', 'plotting-table', '--points', '15', '--category', 'Drills', '--launch-url', read.cleaned, '--publish']) // oxfmt-ignore
  await run(['sounding', 'run', 'HYD-210/running-fix'], { output: /0\.645 of 1 × 15 points = 9\.675/ })
  await as('ingrid')
}

/** Scores by hand, compared, and handed on. */
async function scores(story: Story): Promise<void> {
  const { run, as, heading, expect, office } = story
  heading('Scores: by hand and lifted again, who has none and why, the tool’s own export compared')
  await as('tomas')
  const work = 'HYD-210/soundings-and-datum'
  await run(['score', 'set', work, 'bjarte', '50', '--comment', 'Worked again at the desk'], {
    output: /set by the instructor/,
  })
  await run(['score', 'trail', work, 'bjarte'], { output: /override/ })
  await run(['score', 'lift', work, 'bjarte'], { output: /0\.3333 of 1 × 100 points = 33\.33/ })
  const altitude = 'HYD-210/noon-altitude'
  await run(['score', 'missing', altitude], { output: /never launched/ })
  await run(['case', 'show', 'niamh', altitude], { output: /proven: .*has never opened it here/ })
  await run(['assignment', 'remind', altitude, '--check'], { output: /has not been opened yet/ })
  await run(['assignment', 'remind', altitude, '--person', 'bjarte', '--person', 'tamar'], { output: /^Reminded: / })
  await run(['assignment', 'find', 'altitude'], { output: /HYD-210\/noon-altitude/ })
  await run(['score', 'standing', altitude], { output: /never opened \d+/ })
  await run(['assignment', 'write', altitude, '--group', 'never-opened', '--from', '-'], { input: 'The bench is open until Friday.', output: /^Written to / }) // oxfmt-ignore
  await run(['case', 'open', 'niamh', altitude, '--note', 'Asked after the lecture'], { output: /open/ })
  await run(['case', 'write', 'niamh', altitude], { output: /on their pages; not put away yet/ })
  await run(['case', 'list'], { output: /HYD-210\/noon-altitude/ })
  await run(['case', 'close', 'niamh', altitude], { output: /closed/ })
  const exported = 'Username,Score,Max\nniamh,1,1\ntamar,67,100\nbjarte,40,100\nnobody,5,100'
  await run(['score', 'reconcile', work, '-'], {
    input: exported,
    output: /1 rounding, 1 scale, 1 different, 1 unknown person/,
  })
  await run(['score', 'reconcile', work, '-', '--take', '4'], { input: exported, output: /1 values taken over/ })
  await run(['score', 'lift', work, 'bjarte'], { silent: true })
  await run(['gradebook', 'set', 'HYD-210', '--decimals', '1', '--weight', 'Drills=100'], { output: /100 %/ })
  await run(['gradebook', 'changes', 'HYD-210', '--by', 'person'], { output: /override/ })
  await run(['gradebook', 'twins', 'HYD-210'], { output: /No two columns are for the same work/ })
  await run(['gradebook', 'export', 'HYD-210'], { output: /Soundings and datum \(100\)/, silent: true })

  heading('Rosters in, results on to the records office')
  await as('ingrid')
  await run(['score', 'waiting'], { output: /Nothing waits to be graded/ })
  const newcomers = 'username,name,course,role\nlate.jorunn,Jorunn Etterkoma,HYD 210,learner'
  await run(['person', 'import', '-'], { input: newcomers, output: /Nothing is done yet/ })
  await run(['person', 'import', '-', '--apply'], { input: newcomers, output: /1 people made/ })
  await run(['course', 'tool-rosters', 'HYD-210'], { output: /Knotwork Drills/ })
  await run(['gradebook', 'records-office', 'set', '--address', office, '--token-address', `${office}/token`, '--client-id', 'skerrow-academy', '--secret-file', '-'], { input: 'logbook-7-ledger-4-quill', output: /yes/ }) // oxfmt-ignore
  await as('tomas')
  await run(['gradebook', 'hand-on', 'HYD-210', work], { output: /3 results to hand on/ })
  await run(['gradebook', 'handed-on', 'HYD-210'], { output: /Soundings and datum/ })
  await run(['tool', 'connections'], { output: /No tool is connected/ })
  await as('ingrid')

  heading('Keys are turned over: ours, and a secret beside the old one')
  await run(['service', 'rotate-keys'], { output: /previous/ })
  await run(['launch', 'try', 'HYD-210/noon-altitude', '--as', 'instructor'], { output: /accepted/ })
  await run(['tool', 'rotate-secret', 'knotwork-drills', '--overlap', '48', '--launch-with', 'old'], {
    output: /shown this once/,
  })
  await run(['tool', 'keys', 'knotwork-drills'], { output: /secret, next/ })

  const book = JSON.parse(await run(['gradebook', 'show', 'HYD-210', '--json'], { silent: true })) as Gradebook
  const id = book.columns.find((one) => one.title === 'Soundings and datum')?.id ?? ''
  for (const { username, points } of LEARNERS) {
    const row = book.rows.find((one) => one.person.username === username)
    expect(
      row?.cells[id]?.points === points,
      `The gradebook has ${row?.cells[id]?.points} for ${username}, not ${points}.`,
    )
  }
}

/** What a command is given, and what it has to come to. */
interface Told {
  input?: string
  exit?: number
  output?: RegExp
  /** Neither the command nor what it says is shown. */
  silent?: boolean
}

interface Story extends Addresses {
  url: string
  folder: string
  /** How many commands were run so far. */
  commands: number
  say: Say
  heading: (text: string) => void
  expect: (holds: boolean, otherwise: string) => void
  as: (username: string) => Promise<void>
  /** @returns what it printed */
  run: (args: string[], told?: Told) => Promise<string>
}

/** Runs commands as one person after another, printing each with its real output. */
function createStory(running: Running, folder: string, say: Say, execute: Run): Story {
  let who = 'first'
  const { pids: _, servicePort: __, toolsPort: ___, ...addresses } = running
  const story: Story = {
    ...addresses,
    folder,
    say,
    commands: 0,
    heading: (text) => say(`\n— ${text}`),
    expect(holds, otherwise) {
      if (!holds) throw new Error(otherwise)
    },
    async as(username) {
      who = username
      say(`\n  (as ${username})`)
      const signIn = ['person', 'sign-in', '--username', username, '--password-file', '-']
      await story.run(signIn, { input: PASSWORD, silent: true })
    },
    async run(args, { input = '', exit = 0, output, silent = false } = {}) {
      const command = `bathyscribe ${args.map(quote).join(' ')}`
      if (!silent) say(`\n$ ${input && args.includes('-') ? 'printf … | ' : ''}${command}`)
      const done = await execute({ url: running.url, home: join(folder, 'cli', who) }, args, input)
      const said = done.stdout + done.stderr
      if (!silent) say(said.trimEnd())
      story.commands++
      story.expect(done.status === exit, `“${command}” ended with ${done.status} instead of ${exit}.\n${done.stderr}`)
      if (output) story.expect(output.test(said), `“${command}” did not say ${output}.`)
      return done.stdout
    },
  }
  return story
}

function quote(word: string): string {
  return /^[\w./:=@-]+$/.test(word) ? word : `"${word}"`
}
