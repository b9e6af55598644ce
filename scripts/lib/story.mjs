// The example story: one assignment from the vendor's credentials to the gradebook, by command line, on throw-away data.
import { spawn } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { answerDrill, openAssignment, signIn } from './browserless.mjs'
import { PASSWORD } from './academy.mjs'
import { CLI, setupCodeOf, startStack, stopStack } from './stack.mjs'

const GOOD_SECRET = 'halyard-3-bowline-7-fid'
/** Choices in the drill “Soundings and datum”, and what they bring of 100 points. */
const LEARNERS = [
  { username: 'niamh', name: "Niamh O'Drevnakh", choices: [0, 1, 2], points: '100' },
  { username: 'tamar', name: 'თამარ ზღვისპირელი', choices: [0, 1, 0], points: '66.67' },
  { username: 'bjarte', name: 'Bjarte Havelaarsen', choices: [0, 0, 0], points: '33.33' },
]

/** Runs the story. @returns the exit code: 0 only when every score stands in the gradebook */
export async function runStory(folder, say = (line) => console.log(line)) {
  say('Starting on throw-away data and free ports …')
  const running = await startStack({ folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } })
  const story = createTeller(running.url, join(folder, 'cli'), say)
  try {
    await tell(story, running, folder, say)
    say(`\n● ${story.commands} commands, every one as told. Every score stands in the gradebook.`)
    return 0
  } catch (error) {
    say(`\n✕ ${error.message}`)
    return 1
  } finally {
    await stopStack(folder, { remove: true })
  }
}

async function tell({ run, as, expect }, { url, knotwork }, folder, say) {
  const heading = (text) => say(`\n— ${text}`)

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

  heading(`The technologist copies key and secret from ${knotwork}, a blank along with it the first time`)
  const register = ['tool', 'register', '--name', 'Knotwork Drills', '--key', 'skerrow-knots', '--secret-file', '-', '--launch-url', `${knotwork}/launch`, '--sees', 'name', '--sounding', 'practice_score=0.645'] // prettier-ignore
  await run(register, { input: `${GOOD_SECRET} `, exit: 1, output: /secret has blanks/ })
  await run(register, { input: GOOD_SECRET })
  await run(['tool', 'check', 'knotwork-drills'])

  heading('The instructor makes an assignment of it')
  await as('tomas')
  await run(['assignment', 'create', 'HYD-210', '--title', 'Soundings and datum', '--tool', 'knotwork-drills', '--points', '100', '--category', 'Drills', '--custom', 'drill=soundings', '--publish'], { output: /●/ }) // prettier-ignore
  await run(['assignment', 'list', 'HYD-210'], { output: /●●●○○○/ })

  heading('A sounding proves the whole way before any learner goes it')
  await run(['sounding', 'run', 'HYD-210/soundings-and-datum'], { output: /0\.645 of 1 × 100 points = 64\.5/ })

  heading('Three learners open it in their browsers and hand in')
  const { id } = JSON.parse(
    await run(['assignment', 'show', 'HYD-210/soundings-and-datum', '--json'], { silent: true }),
  )
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
  await run(['wire', 'show', /^(\d+) /m.exec(entries)[1]], { output: /replaceResult/ })

  heading('The same tool with a secret that was misheard: the sounding names the secret')
  await as('ingrid')
  await run(['tool', 'register', '--name', 'Knotwork Drills (spare key)', '--key', 'skerrow-knots', '--secret-file', '-', '--launch-url', `${knotwork}/launch`, '--second', 'A spare pair'], { input: 'halyard-3-bowline-fid-7' }) // prettier-ignore
  await run(['assignment', 'create', 'HYD-210', '--title', 'Knots under way', '--tool', 'knotwork-drills-spare-key', '--points', '10', '--category', 'Drills', '--publish']) // prettier-ignore
  await run(['sounding', 'run', 'HYD-210/knots-under-way'], { exit: 1, output: /The shared secret is wrong/ })
  await run(['tool', 'change', 'knotwork-drills-spare-key', '--secret-file', '-', '--sounding', 'practice_score=1'], {
    input: GOOD_SECRET,
  })
  await run(['sounding', 'run', 'HYD-210/knots-under-way'], { output: /pass/ })
  await run(['assignment', 'list', 'HYD-210'], { output: /●●●●●●[\s\S]*●●●●●●/ })

  const book = JSON.parse(await run(['gradebook', 'show', 'HYD-210', '--json'], { silent: true }))
  for (const { username, points } of LEARNERS) {
    const row = book.rows.find((one) => one.person.username === username)
    expect(
      row?.cells[id]?.points === points,
      `The gradebook has ${row?.cells[id]?.points} for ${username}, not ${points}.`,
    )
  }
}

/** Runs commands as one person after another, printing each with its real output. */
function createTeller(url, home, say) {
  let who = 'first'
  const teller = {
    commands: 0,
    expect(holds, otherwise) {
      if (!holds) throw new Error(otherwise)
    },
    async as(username) {
      who = username
      say(`\n  (as ${username})`)
      await teller.run(['person', 'sign-in', '--username', username, '--password-file', '-'], {
        input: PASSWORD,
        silent: true,
      })
    },
    async run(args, { input = '', exit = 0, output, silent = false } = {}) {
      if (!silent)
        say(`\n$ ${input && args.includes('-') ? 'printf … | ' : ''}bathyscribe ${args.map(quote).join(' ')}`)
      const done = await execute([CLI, '--url', url, ...args], input, {
        ...process.env,
        BATHYSCRIBE_CONFIG_HOME: join(home, who),
        NO_COLOR: '1',
        BATHYSCRIBE_TOKEN: '',
      })
      if (!silent) say((done.stdout + done.stderr).trimEnd())
      teller.commands++
      teller.expect(
        done.status === exit,
        `“bathyscribe ${args.join(' ')}” ended with ${done.status} instead of ${exit}.\n${done.stderr}`,
      )
      if (output)
        teller.expect(output.test(done.stdout + done.stderr), `“bathyscribe ${args.join(' ')}” did not say ${output}.`)
      return done.stdout
    },
  }
  return teller
}

function execute(args, input, env) {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, args, { env: { ...env, BATHYSCRIBE_TOKEN: undefined } })
    let stdout = ''
    let stderr = ''
    child.stdout.setEncoding('utf8').on('data', (text) => (stdout += text))
    child.stderr.setEncoding('utf8').on('data', (text) => (stderr += text))
    child.on('error', reject).on('close', (status) => resolve({ status, stdout, stderr }))
    child.stdin.end(input)
  })
}

function quote(word) {
  return /^[\w./:=@-]+$/.test(word) ? word : `"${word}"`
}
