import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createProgram } from '@bathyscribe/cli'
import type { Command } from 'commander'
import { CLI, startStack, stopStack } from '../../scripts/lib/stack.mjs'
import { RUN } from '../../scripts/lib/prepare.mjs'
import { runStory } from '../../scripts/lib/story.mjs'
import { PASSWORD, startDemo } from './academy.js'

let demo: Awaited<ReturnType<typeof startDemo>>
const home = mkdtempSync(join(tmpdir(), 'bathyscribe-cli-'))
beforeAll(async () => {
  demo = await startDemo('cli')
})
afterAll(() => demo?.stop())

function run(args: string[], input = '', environment: Record<string, string> = {}) {
  const { BATHYSCRIBE_TOKEN: _, ...inherited } = process.env
  return spawnSync(process.execPath, [CLI, '--url', demo.url, ...args], {
    input,
    encoding: 'utf8',
    env: { ...inherited, NO_COLOR: '1', BATHYSCRIBE_CONFIG_HOME: home, ...environment },
  })
}

function leaves(command: Command, path: string[] = []): { path: string[]; command: Command }[] {
  if (command.commands.length === 0) return [{ path, command }]
  return command.commands.flatMap((one) => leaves(one, [...path, one.name()]))
}

describe('the command line', () => {
  it('says what to do before anybody is signed in, and ends 1', () => {
    const done = run(['course', 'list'])
    expect(done.status).toBe(1)
    expect(done.stderr).toContain('person sign-in')
  })

  it('keeps a token that only its owner can read, and no password', () => {
    const done = run(['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], `${PASSWORD}\n`)
    expect(done.status).toBe(0)
    const file = join(home, 'sign-in.json')
    expect(statSync(file).mode & 0o777).toBe(0o600)
    expect(readFileSync(file, 'utf8')).not.toContain(PASSWORD)
  })

  it('ends 0 when done, 1 when refused, 2 for wrong usage, 3 when no service answers', () => {
    expect(run(['course', 'list']).status).toBe(0)
    const refused = run(['course', 'show', 'NOPE-1'])
    expect(refused.status).toBe(1)
    expect(refused.stderr).toMatch(/no such course.*course\.not_found[\s\S]*→/)
    expect(run(['course', 'sail']).status).toBe(2)
    expect(run(['assignment', 'create', 'HYD-210']).status).toBe(2)
    expect(run(['wire', 'list', '--limit', 'many']).status).toBe(2)
    const away = run(['--url', 'http://127.0.0.1:9', 'course', 'list'], '', { BATHYSCRIBE_TOKEN: 'x' })
    expect(away.status).toBe(3)
  })

  it('answers programs in the API’s own shapes, people in tables, and --quiet not at all', () => {
    const { items } = JSON.parse(run(['tool', 'list', '--json']).stdout) as { items: { slug: string }[] }
    expect(items.map((tool) => tool.slug)).toContain('knotwork-drills')
    expect(run(['tool', 'list']).stdout).toMatch(/short name +name/)
    expect(run(['tool', 'list', '--quiet']).stdout).toBe('')
  })

  it('a sounding of the assignment with the wrong secret ends 1 and names the secret', () => {
    const done = run(['sounding', 'run', 'NAV-120/knots-under-way'])
    expect(done.status).toBe(1)
    expect(done.stdout).toContain('The shared secret is wrong')
  })

  it('never lets what a tool or person wrote command the terminal', () => {
    const title = `Knots \u001b[31mred\u202e`
    const made = run([
      'assignment',
      'create',
      'HYD-210',
      '--title',
      title,
      '--tool',
      'knotwork-drills',
      '--points',
      '1',
    ])
    expect(made.status).toBe(1)
    expect(made.stderr).toContain('one line of text')
    run(['assignment', 'create', 'HYD-210', '--title', 'Right\u202eleft', '--tool', 'knotwork-drills', '--points', '1'])
    expect(run(['assignment', 'list', 'HYD-210']).stdout).not.toContain('\u202e')
  })

  it('every command’s help ends with two examples, and takes no secret as an argument', () => {
    const commands = leaves(createProgram()).filter(({ path }) => path[0] !== 'help')
    expect(commands.length).toBeGreaterThan(30)
    for (const { path, command } of commands) {
      let text = ''
      command.configureOutput({ writeOut: (more) => (text += more) })
      command.outputHelp()
      expect(text.match(/^ {2}\$ bathyscribe /gm), path.join(' ')).toHaveLength(2)
      expect(text).not.toMatch(/--(secret|password|token) </)
    }
  })

  it('prints completion scripts that shells accept', () => {
    for (const shell of ['bash', 'zsh']) {
      const { stdout } = run(['completion', shell])
      expect(stdout).toContain('assignment create')
      if (shell === 'bash') expect(spawnSync('bash', ['-n'], { input: stdout }).status).toBe(0)
    }
  })

  it('refuses a configuration by naming every fault, and ends 2', () => {
    const done = run(['service', 'run'], '', { BATHYSCRIBE_PORT: 'abc', BATHYSCRIBE_COLOUR: 'x' })
    expect(done.status).toBe(2)
    for (const fault of ['port', 'BATHYSCRIBE_COLOUR', 'publicUrl', 'databaseUrl', 'keyFile'])
      expect(done.stderr).toContain(fault)
  })
})

describe('the demo', () => {
  it('tells its example story to the end: every score stands in the gradebook', async () => {
    const folder = join(RUN, `e2e-story-${process.pid}`)
    const lines: string[] = []
    expect(await runStory(folder, (line) => void lines.push(line)), lines.join('\n')).toBe(0)
    expect(lines.join('\n')).toContain('Every score stands in the gradebook')
    expect(existsSync(folder)).toBe(false)
  })

  it('started twice finds itself running, and comes back with its data after a kill', async () => {
    const folder = join(RUN, `e2e-again-${process.pid}`)
    const options = { folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } }
    try {
      const first = await startStack(options)
      expect(await startStack({ folder })).toMatchObject({ fresh: false, pids: first.pids })
      for (const pid of first.pids) process.kill(pid, 'SIGKILL')
      await new Promise((resolve) => setTimeout(resolve, 300))
      const again = await startStack({ folder })
      expect(again).toMatchObject({ fresh: true, url: first.url })
      expect(await (await fetch(`${again.url}/readyz`)).json()).toEqual({ status: 'ready' })
    } finally {
      await stopStack(folder, { remove: true })
    }
  })
})
