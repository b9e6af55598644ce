import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Argument, Command, Option } from 'commander'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { calls, callsOf, serve } from '../../../test/served.js'
import { atTerminal, createProgram, runCommand } from '../src/program.js'

/** As many answers as there are of everything, from nothing at all to names of every script. */
const SEEDS = [1, 2, 3, 4]
/** Commands that are no client of the API. */
const NO_CALLS = [
  'service run',
  'service migrate',
  'service settings',
  'service reseal',
  'service health',
  'completion',
]
/** What answers with bytes, or takes them: the stand-in speaks JSON only. */
const BYTES = ['course file-add', 'sounding pictures']
/** What prints a line whenever something comes. */
const FOLLOWS = ['score watch']
/** What cannot be any text. */
const VALUES: Record<string, string> = {
  course: 'HYD-210',
  assignment: 'HYD-210/bends',
  points: '10',
  n: '1',
  file: '-',
}

/** What writes the file that it is given. */
const WRITES = ['wire export']

const home = mkdtempSync(join(tmpdir(), 'bathyscribe-commands-'))
const before = readdirSync('.')
afterAll(() => {
  rmSync(home, { recursive: true, force: true })
  // No command leaves anything where it happens to run.
  expect(readdirSync('.')).toEqual(before)
})

interface Leaf {
  name: string
  command: Command
}

function leavesOf(command: Command, path: string[] = []): Leaf[] {
  const here = command.commands.flatMap((one) => leavesOf(one, [...path, one.name()]))
  const acts = (command as unknown as { _actionHandler: unknown })._actionHandler
  return acts ? [{ name: path.join(' '), command }, ...here] : here
}

const valueOf = (one: { name: () => string; argChoices?: string[] | undefined }): string => {
  if (one.argChoices) return one.argChoices[0]!
  return VALUES[one.name().replace(/s$/, '')] ?? VALUES[one.name()] ?? '1'
}
const argumentsOf = (given: readonly Argument[]) => given.filter((one) => one.required).map(valueOf)
const optionsOf = (given: readonly Option[]) =>
  given.filter((one) => one.mandatory && one.defaultValue === undefined).flatMap((one) => [one.long!, valueOf(one)])

/** What a person would type, with as little as is needed; consent is given where it can be. */
function typed({ name, command }: Leaf): string[] {
  const agrees = command.options.some((one) => one.long === '--yes') ? ['--yes'] : []
  // What waits does so for a second.
  const waits = command.options.some((one) => one.long === '--for') ? ['--for', '1'] : []
  return [
    ...name.split(' '),
    ...argumentsOf(command.registeredArguments).map((one) =>
      WRITES.includes(name) && one === VALUES['file'] ? join(home, 'written') : one,
    ),
    ...optionsOf(command.options),
    ...agrees,
    ...waits,
  ]
}

async function run(args: string[]) {
  const said = { out: '', err: '' }
  const own = {
    environment: { BATHYSCRIBE_URL: 'http://served.example', BATHYSCRIBE_TOKEN: 't', BATHYSCRIBE_CONFIG_HOME: home },
    print: (text: string | Uint8Array) => void (said.out += text.toString()),
    say: (text: string) => void (said.err += text),
    readInput: () => 'a line of input',
    isTTY: { input: false, output: false, messages: false },
    colours: false,
  }
  const status = await atTerminal(own, () => runCommand(['node', 'bathyscribe', ...args]))
  return { status, ...said }
}

const LEAVES = leavesOf(createProgram()).filter(
  ({ name }) => ![...NO_CALLS, ...BYTES].includes(name) && !name.startsWith('demo'),
)

beforeEach(() => {
  // What is under way has come to its end.
  const over = { state: 'done' } as const
  serve({ showSounding: () => over, runSounding: () => over, showSweep: () => over, startSweep: () => over })
})

describe('every command', () => {
  it('is there', () => expect(LEAVES.length).toBeGreaterThan(100))

  it.each(LEAVES.map((leaf) => [leaf.name, leaf] as const))(
    '%s tells whatever the service answers',
    async (_, leaf) => {
      for (const seed of SEEDS) {
        serve({}, seed)
        const { status, out, err } = await run(typed(leaf))
        expect([0, 1, 2], err).toContain(status)
        // What it cannot do it says, with a way out.
        if (status !== 0 && out === '') expect(err).toMatch(/\S/)
        expect(`${out}${err}`).not.toMatch(/\bundefined\b|\[object Object\]|\bNaN\b|Invalid Date/)
      }
    },
  )

  it.each(LEAVES.map((leaf) => [leaf.name, leaf] as const))(
    '%s answers programs in JSON, or with nothing',
    async (_, leaf) => {
      const { status, out } = await run([...typed(leaf), '--json'])
      if (status === 0 && !FOLLOWS.includes(leaf.name)) expect(() => JSON.parse(out) as unknown).not.toThrow()
      const quiet = await run([...typed(leaf), '--quiet'])
      expect(quiet.out).toBe('')
    },
  )

  it.each(LEAVES.map((leaf) => [leaf.name, leaf] as const))(
    '%s shows its help, with two examples of itself',
    async (name) => {
      const { status, out } = await run([...name.split(' '), '--help'])
      expect(status).toBe(0)
      const examples = [...out.matchAll(/^ {2}\$ bathyscribe (.+)$/gm)].map(([, line]) => line!)
      expect(examples).toHaveLength(2)
      for (const line of examples) expect(line.startsWith(name)).toBe(true)
      expect(calls).toEqual([])
    },
  )
})

describe('a command that is refused', () => {
  it.each(['undo', 'tool', 'tool undo'])('for it is none: %s', async (name) => {
    const { status, err, out } = await run(name.split(' '))
    expect(status).toBe(2)
    expect(`${out}${err}`).toMatch(/help/)
  })

  it('for an argument is missing, says which', async () => {
    const { status, err } = await run(['tool', 'show'])
    expect(status).toBe(2)
    expect(err).toContain("missing required argument 'tool'")
  })

  it('for a number is none, sends nothing', async () => {
    const { status, err } = await run(['tool', 'list', '--limit', 'three'])
    expect(status).toBe(2)
    expect(err).toContain('Give a whole number.')
    expect(calls).toEqual([])
  })
})

describe('what is said of a diagnosis', () => {
  const said = { code: 'other_scheme', verdict: 'wrong', was: 'other_host', byItself: false, by: null, at: '2026-11-30T12:00:00Z' } // oxfmt-ignore
  beforeEach(() => serve({ judgeDiagnosis: () => ({ items: [said], doubted: ['other_scheme'] }) }))
  const explain = (...options: string[]) => run(['wire', 'explain', ...options])

  it.each([
    [['--right', '42'], { verdict: 'right' }],
    [['--right', '42', '--cause', 'other_host'], { verdict: 'right', cause: 'other_host' }],
    [['--wrong', '42', '--was', 'other_host'], { verdict: 'wrong', was: 'other_host' }],
  ])('%s is sent as it was said', async (options, body) => {
    const { status, out } = await explain(...options)
    expect(status).toBe(0)
    expect(callsOf('judgeDiagnosis')).toMatchObject([{ params: { entry: '42' }, body }])
    expect(out).toMatch(/✕ other_scheme was wrong; it was other_host: said by somebody who is gone.*▲ other_scheme is told as likely/s) // oxfmt-ignore
  })
  it('is taken back', async () => {
    expect((await explain('--take-back', '42')).out).toContain('wire entry 42 is taken back')
    expect(callsOf('takeVerdictBack')).toMatchObject([{ params: { entry: '42' } }])
  })
  it.each([
    ['with a text beside it', ['-', '--right', '42']],
    ['as right and wrong', ['--right', '42', '--wrong', '42']],
    ['and taken back at once', ['--wrong', '42', '--take-back', '42']],
    ['with a cause and no verdict', ['-', '--cause', 'other_host']],
    ['with what it was and no verdict', ['-', '--was', 'other_host']],
  ])('is not taken %s, and nothing is sent', async (_, options) => {
    expect((await explain(...options)).status).toBe(2)
    expect(calls).toEqual([])
  })
  it('is counted, after a look that was asked for', async () => {
    serve({ listCauses: () => ({ items: [], months: [] }) })
    expect((await run(['wire', 'causes', '--looked-at', 'other_host'])).out).toContain('Nothing was judged yet')
    expect(calls.map(({ name }) => name)).toEqual(['lookAtCause', 'listCauses'])
  })
})

describe('when columns are handed on', () => {
  const handOn = (...given: string[]) => run(['gradebook', 'hand-on', ...given])
  it('is set for those that are named, in their course or with it, and nothing is handed on', async () => {
    const { status, out } = await handOn('HYD-210', 'bends', 'HYD-210/charts', '--mode', 'at_once')
    expect(status).toBe(0)
    expect(calls.map(({ name }) => name)).toEqual(['setHandOn', 'setHandOn'])
    const [one, another] = callsOf('setHandOn')
    expect([one!.params['assignment'], another!.params['assignment']]).toEqual(['HYD-210/bends', 'HYD-210/charts'])
    expect(one!.body).toEqual({ mode: 'at_once' })
    expect(out).toMatch(/is handed on: /)
  })
  it.each([
    ['for no column', ['--mode', 'never'], /Name the columns/],
    ['in a mode that there is none of', ['bends', '--mode', 'review'], /Allowed choices are manual/],
    ['and handed on at once', ['bends', '--mode', 'never', '--again'], /cannot be used with/],
  ])('is not set %s', async (_, given, said) => {
    const { status, err } = await handOn('HYD-210', ...given)
    expect(status).toBe(2)
    expect(err).toMatch(said)
    expect(calls).toEqual([])
  })
})

describe('messages that are explained', () => {
  const one = (change: object) => ({
    kind: 'form',
    what: 'A signed form post.',
    takenFor: 'a curl command',
    tool: null,
    parts: [],
    entry: null,
    differences: [],
    diagnosis: null,
    ...change,
  })
  const diagnosis = { certainty: 'proven', sentence: 'The host differs.', causes: [], ruledOut: [], letters: { en: 'Dear team', de: 'Liebes Team' } } // oxfmt-ignore
  beforeEach(() =>
    serve({
      explainMessage: () => ({
        ...one({ diagnosis, entry: { id: '7', at: '2026-11-30T12:00:00Z', direction: 'received' } }),
        also: [one({ kind: 'token', what: 'An id_token.', takenFor: 'a token in a text' })],
      }),
    }),
  )
  const file = join(home, 'sent')
  const explain = (text: string, ...options: string[]) => {
    writeFileSync(file, text)
    return run(['wire', 'explain', file, ...options])
  }

  it('are told one after the other, with what each was taken for', async () => {
    const { out } = await explain('x')
    expect(out).toMatch(/Message 1 of 2.*A signed form post\..*Taken for a curl command\..*It came as wire entry 7.*The host differs.*Message 2 of 2.*An id_token\./s) // oxfmt-ignore
  })
  it('have a letter in the language that is asked for', async () => {
    expect((await explain('x', '--letter')).out.trim()).toBe('Dear team')
    expect((await explain('x', '--letter', '--language', 'de')).out.trim()).toBe('Liebes Team')
    expect((await explain('x', '--letter', '--language', 'fr')).err).toMatch(/Allowed choices are en, de/)
  })
  it('of a HAR file are sent without what was answered', async () => {
    await explain(JSON.stringify({ log: { entries: [{ request: { method: 'POST' }, response: 'private' }] } }))
    expect(JSON.stringify(calls)).toContain('entries')
    expect(JSON.stringify(calls)).not.toContain('private')
  })
})

describe('what is written', () => {
  const WRITERS: [string, string[], string][] = [
    ['a story of the wire log', ['wire', 'export', '42'], '"entries"'],
    ['a gradebook as OneRoster', ['gradebook', 'export', 'HYD-210', '--oneroster'], 'PK'],
    ['a report of a sweep', ['sounding', 'sweep', '--csv'], 'assignment'],
  ]
  beforeEach(() =>
    serve({
      exportResults: () => ({ fileName: 'results.zip', zip: Buffer.from('PK, then the rest').toString('base64') }),
      showSweepReport: () => ({ text: 'course,assignment' }),
    }),
  )

  it.each(WRITERS)('%s goes into the file that is named, over what was there', async (_, args, part) => {
    const file = join(home, 'new')
    for (const time of [1, 2]) {
      expect((await run([...args, file])).err, `time ${time}`).not.toContain('cannot')
      expect(readFileSync(file, 'utf8')).toContain(part)
    }
    rmSync(file)
  })

  it.each(WRITERS)('%s goes to standard output for -, alone', async (_, args, part) => {
    const { out } = await run([...args, '-'])
    expect(out).toContain(part)
    expect(out).not.toMatch(/written to/)
    expect(out.trimStart()).toMatch(/^({|PK|course)/)
  })

  it.each(WRITERS)('%s says so where it cannot be written', async (_, args) => {
    const { status, err } = await run([...args, join(home, 'no', 'such', 'folder')])
    expect(status).toBe(2)
    expect(err).toMatch(/cannot be written .*\n.*- writes to standard output/s)
  })
})
