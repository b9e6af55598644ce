import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createProgram } from '@bathyscribe/cli'
import type { Command } from 'commander'
import { startPostgres } from '@bathyscribe/yard/machine/postgres'
import { PASSWORD, startDemo } from './academy.js'
import { commandOf, processOf } from './command.js'

let demo: Awaited<ReturnType<typeof startDemo>>
const home = mkdtempSync(join(tmpdir(), 'bathyscribe-cli-'))
beforeAll(async () => {
  demo = await startDemo('cli')
})
afterAll(() => demo?.stop())

const run = (args: string[], input = '', environment: NodeJS.ProcessEnv = {}) =>
  commandOf({ url: demo.url, home }, args, input, environment)
const runAlone = (args: string[], input = '', environment: NodeJS.ProcessEnv = {}) =>
  processOf({ url: demo.url, home }, args, input, environment)

function leaves(command: Command, path: string[] = []): { path: string[]; command: Command }[] {
  if (command.commands.length === 0) return [{ path, command }]
  return command.commands.flatMap((one) => leaves(one, [...path, one.name()]))
}

describe('the command line', () => {
  it('says what to do before anybody is signed in, and ends 1', async () => {
    const done = await runAlone(['course', 'list'])
    expect(done.status).toBe(1)
    expect(done.stderr).toContain('person sign-in')
  })

  it('keeps a token that only its owner can read, and no password', async () => {
    const done = await runAlone(['person', 'sign-in', '--username', 'ingrid', '--password-file', '-'], `${PASSWORD}\n`)
    expect(done.status).toBe(0)
    const file = join(home, 'sign-in.json')
    expect(statSync(file).mode & 0o777).toBe(0o600)
    expect(readFileSync(file, 'utf8')).not.toContain(PASSWORD)
  })

  it('ends 0 when done, 1 when refused, 2 for wrong usage, 3 when no service answers', async () => {
    expect((await runAlone(['course', 'list'])).status).toBe(0)
    const refused = await runAlone(['course', 'show', 'NOPE-1'])
    expect(refused.status).toBe(1)
    expect(refused.stderr).toMatch(/no such course.*course\.not_found[\s\S]*→/)
    expect((await runAlone(['course', 'sail'])).status).toBe(2)
    expect((await runAlone(['assignment', 'create', 'HYD-210'])).status).toBe(2)
    expect((await runAlone(['wire', 'list', '--limit', 'many'])).status).toBe(2)
    // What is no number is never taken for “unlimited”.
    expect(
      (await runAlone(['assignment', 'change', 'HYD-210/soundings-and-datum', '--attempts', 'three'])).status,
    ).toBe(2)
    // What is done in part ends 1, too: the line of the course that is not there was left out.
    const table = 'username,name,course,role\nodd.one,Odd One,NOPE 1,learner'
    const partly = await runAlone(['person', 'import', '-', '--no-make-courses'], table)
    expect(partly.stdout).toContain('NOPE 1 is no course here')
    expect(partly.status).toBe(1)
    const away = await runAlone(['--url', 'http://127.0.0.1:9', 'course', 'list'], '', { BATHYSCRIBE_TOKEN: 'x' })
    expect(away.status).toBe(3)
  })

  it('answers programs in the API’s own shapes, people in tables, and --quiet not at all', async () => {
    const { items } = JSON.parse((await runAlone(['tool', 'list', '--json'])).stdout) as { items: { slug: string }[] }
    expect(items.map((tool) => tool.slug)).toContain('knotwork-drills')
    expect((await runAlone(['tool', 'list'])).stdout).toMatch(/short name +name/)
    expect((await runAlone(['tool', 'list', '--quiet'])).stdout).toBe('')
  })

  it('says the same within a program of somebody’s own as by itself', async () => {
    for (const args of [
      ['tool', 'list'],
      ['course', 'show', 'HYD-210', '--json'],
      ['course', 'show', 'NOPE-1'],
      ['course', 'sail'],
      ['assignment', 'create', '--help'],
      ['tool', 'intake', '/no/such/file'],
    ])
      expect(await run(args), args.join(' ')).toEqual(await runAlone(args))
    expect(await run(['tool', 'intake', '-'], 'Key: a')).toEqual(await runAlone(['tool', 'intake', '-'], 'Key: a'))
  })

  it('a sounding of the assignment with the wrong secret ends 1 and names the secret', async () => {
    const done = await run(['sounding', 'run', 'NAV-120/knots-under-way'])
    expect(done.status).toBe(1)
    expect(done.stdout).toContain('The shared secret is wrong')
  })

  it('all that is kept of a person goes into a file of one’s own, and is removed only once the account is closed', async () => {
    const guest = 'brief.guest'
    await run(['person', 'create', guest, '--full-name', 'Brief Guest'])
    const out = join(home, 'guest.json')
    const done = await run(['person', 'data', guest, '--out', out])
    expect(done.stdout).toMatch(/account +1\b[\s\S]*All of it is in/)
    expect(statSync(out).mode & 0o777).toBe(0o600)
    expect(JSON.parse(readFileSync(out, 'utf8'))).toMatchObject({ person: { username: guest } })
    const twice = await run(['person', 'data', guest, '--out', out])
    expect([twice.status, twice.stderr]).toEqual([2, expect.stringContaining('is there already')])

    const unasked = await run(['person', 'remove', guest])
    expect([unasked.status, unasked.stderr]).toEqual([1, expect.stringContaining('Add --yes')])
    const open = await run(['person', 'remove', guest, '--yes'])
    expect([open.status, open.stderr]).toEqual([1, expect.stringMatching(/account is open[\s\S]*person close/)])
    await run(['person', 'close', guest])
    const removed = await run(['person', 'remove', guest, '--yes'])
    expect([removed.status, removed.stdout]).toEqual([0, expect.stringContaining('Brief Guest is removed')])
    expect((await run(['person', 'show', guest])).status).toBe(1)
  })

  it('never lets what a tool or person wrote command the terminal', async () => {
    const title = `Knots \u001b[31mred\u202e`
    const made = await run([
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
    await run([
      'assignment',
      'create',
      'HYD-210',
      '--title',
      'Right\u202eleft',
      '--tool',
      'knotwork-drills',
      '--points',
      '1',
    ])
    expect((await run(['assignment', 'list', 'HYD-210'])).stdout).not.toContain('\u202e')
  })

  it('every command’s help ends with two examples, and takes no secret as an argument', async () => {
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

  it('prints completion scripts that shells accept', async () => {
    for (const shell of ['bash', 'zsh']) {
      const { stdout } = await run(['completion', shell])
      expect(stdout).toContain('assignment create')
      if (shell === 'bash') expect(spawnSync('bash', ['-n'], { input: stdout }).status).toBe(0)
    }
  })

  it('refuses a configuration by naming every fault, and ends 2', async () => {
    const done = await runAlone(['service', 'run'], '', { BATHYSCRIBE_PORT: 'abc', BATHYSCRIBE_COLOUR: 'x' })
    expect(done.status).toBe(2)
    for (const fault of ['port', 'BATHYSCRIBE_COLOUR', 'publicUrl', 'databaseUrl', 'keyFile'])
      expect(done.stderr).toContain(fault)
  })
})

describe('the secrets of a service that runs, by command line', () => {
  it('are resealed, and earlier keys go when it is said that every process was restarted', async () => {
    const { url } = await startPostgres(join(demo.folder, 'postgres'))
    const server = {
      BATHYSCRIBE_PUBLIC_URL: demo.url,
      BATHYSCRIBE_DATABASE_URL: url,
      BATHYSCRIBE_KEY_FILE: join(demo.folder, 'keys.json'),
    }
    const reseal = (...more: string[]) => runAlone(['service', 'reseal', ...more], '', server)
    const first = await reseal()
    expect(first).toMatchObject({ status: 0, stderr: '' })
    expect(first.stdout).toMatch(/registration\.secret_sealed +\d+\n[^]*New key k2\. [^]*--forget-old/)
    const asked = await reseal('--forget-old')
    expect(asked.status).toBe(1)
    expect(asked.stderr).toContain('No key was taken out.')
    expect(JSON.parse((await reseal('--json')).stdout)).toMatchObject({ newKey: 'k3', forgotten: [] })
    expect((await reseal('--forget-old', '--yes')).stdout).toContain('Taken out of the key file: k2.')
    const elsewhere = await runAlone(['service', 'reseal'], '', {
      ...server,
      BATHYSCRIBE_KEY_FILE: join(demo.folder, 'none'),
    })
    expect(elsewhere.status).toBe(1)
    expect(elsewhere.stderr).toContain('cannot be read')
    // The service was not restarted, and opens what it has to.
    expect((await run(['tool', 'check', 'knotwork-drills'])).status).toBe(0)
  })
})

describe('a tool that is handed over, by command line', () => {
  const practise = (tool: 'knotwork' | 'sextant', path: string, form: Record<string, string>) =>
    fetch(`${demo[tool]}/practice${path}`, {
      method: 'POST',
      body: new URLSearchParams(form),
      // The commands between two of these hold this process up, and a connection that was kept may have ended meanwhile.
      headers: { connection: 'close' },
    })
  const mail = () =>
    `Subject: Credentials for Drills of the second kind\n\nConsumer key: second-key\u200b\nShared secret: 'halyard-3-bowline-7-fid'\nLaunch URL: ${demo.knotwork}/launch\n`

  it('a pasted mail is read, and registers nothing before it is confirmed', async () => {
    const read = await run(['tool', 'intake', '-'], mail())
    // Nobody was asked, so nothing was done: a script must not take that for done.
    expect(read.status).toBe(1)
    expect(read.stdout).toContain('U+200B')
    expect(read.stdout).not.toContain('halyard-3-bowline')
    expect(read.stderr).toContain('Nothing was registered')
    expect((await run(['tool', 'show', 'drills-of-the-second-kind'])).status).toBe(1)
    const done = await run(['tool', 'intake', '-', '--yes', '--json'], mail())
    expect(done.status).toBe(0)
    expect(JSON.parse(done.stdout)).toMatchObject({
      tool: { slug: 'drills-of-the-second-kind', state: 'enabled', consumerKey: 'second-key' },
    })
    expect(done.stdout).not.toContain('halyard-3-bowline')
  })

  it('what is wrong with it stops it, what is missing is named, and two pairs have to be chosen from', async () => {
    const wrong = await run(['tool', 'intake', '-', '--yes', '--name', 'X'], 'Key: a-key\nSecret: ••••••••')
    expect(wrong.status).toBe(1)
    expect(wrong.stderr).toContain('--anyway')
    expect((await run(['tool', 'intake', '-', '--yes'], 'Key: only-a-key')).stderr).toContain('shared secret')
    const two =
      'For grades:\nKey: grade-key\nSecret: secret-number-one\n\nFor links only, no grades:\nKey: link-key\nSecret: secret-number-two\n'
    expect((await run(['tool', 'intake', '-', '--yes', '--name', 'Two'], two)).status).toBe(2)
    const chosen = await run(['tool', 'intake', '-', '--yes', '--name', 'Two', '--pair', '2', '--json'], two)
    expect(JSON.parse(chosen.stdout)).toMatchObject({
      tool: { consumerKey: 'link-key', features: [], note: 'This key: For links only, no grades:' },
    })
    expect((await run(['tool', 'intake', '-'], '')).status).toBe(2)
    expect((await run(['tool', 'intake', '/no/such/file'])).status).toBe(2)
  })

  it.each<['knotwork' | 'sextant', string, RegExp]>([
    ['knotwork', 'error_500', /fail +answer +The tool’s server answers 500/],
    ['knotwork', 'refuses_frames', /fail +framing +The tool refuses to be shown in a frame: frame-ancestors 'none'/],
    ['knotwork', 'slow', /fail +answer +The answer took too long/],
    ['knotwork', 'wrong_clock', /fail +clock +The tool’s clock is 6\d\d seconds off ours/],
    ['knotwork', 'moved_away', /warn +redirects +The launch address redirects to another host/],
    ['knotwork', 'lost_cookies', /warn +cookies +Browsers drop these cookies of the tool in a frame: desk/],
    ['sextant', 'wrong_client', /fail +initiation +The tool sends the client ID “somebody-else”/],
    [
      'sextant',
      'wrong_redirect',
      /fail +initiation +The tool asks for the answer at “.*\/launch\/”, which is not registered/,
    ],
    ['sextant', 'changes_hints', /fail +initiation +The tool does not send our hints back unchanged/],
    ['sextant', 'no_state', /warn +initiation +The tool sends no state/],
    ['sextant', 'wrong_prompt', /fail +initiation +.*prompt is “login”, not “none”/],
    ['sextant', 'sends_nowhere', /fail +initiation +The initiation address does not send the browser back to us/],
    ['sextant', 'keyset_empty', /fail +keyset +The keyset holds no key that can be used/],
    ['sextant', 'keyset_page', /fail +keyset +What is at the keyset address is not a keyset/],
    ['sextant', 'keyset_huge', /fail +keyset +The answer is larger than is read here/],
    ['sextant', 'keyset_gone', /fail +keyset +The address answers, but not with what was asked for/],
    ['sextant', 'error_500', /fail +initiation +The initiation address answers 500/],
  ])('tool check of %s, told to misbehave by %s, names the cause', async (tool, fault, words) => {
    const slug = tool === 'knotwork' ? 'knotwork-drills' : 'sextant-bench'
    await practise(tool, '', { faults: fault })
    const done = await run(['tool', 'check', slug])
    await practise(tool, '', { faults: '' })
    expect(done.stdout).toMatch(words)
    expect(done.status).toBe(words.source.startsWith('fail') ? 1 : 0)
    if (words.source.startsWith('fail')) expect(done.stdout).toContain('→')
  })

  it('tool check passes on both when they behave, and names a secret that the tool does not hold', async () => {
    for (const slug of ['knotwork-drills', 'sextant-bench']) expect((await run(['tool', 'check', slug])).status).toBe(0)
    await practise('knotwork', '/secrets', { secrets: 'another-secret-of-theirs' })
    const done = await run(['tool', 'check', 'knotwork-drills'])
    await practise('knotwork', '/secrets', { secrets: '' })
    expect(done.status).toBe(1)
    expect(done.stdout).toContain('The shared secret is wrong')
  })

  it('a tool that registers itself is let in and approved with one confirmation', async () => {
    // It is one that the academy has.
    const same = await run(['tool', 'intake', `${demo.sextant}/register`])
    expect([same.status, same.stderr]).toEqual([1, expect.stringContaining('registered already, as “Sextant Bench”')])
    const second = ['--second', 'a key of its own for summer', '--name', 'Sextant, summer']
    const asked = await run(['tool', 'intake', `${demo.sextant}/register`, ...second])
    expect(asked.stdout).toContain('send scores')
    expect(asked.stderr).toContain('It waits on')
    const done = await run(['tool', 'intake', `${demo.sextant}/register`, '--yes', '--json', ...second])
    expect(JSON.parse(done.stdout)).toMatchObject({ tool: { state: 'enabled', version: '1.3' } })
  })

  it('deployments, places and offers are set by command line as well', async () => {
    expect((await run(['tool', 'deployments', 'sextant-bench', '--add', 'NAV-120'])).stdout).toContain('NAV 120')
    expect((await run(['tool', 'deployments', 'sextant-bench', '--add', 'NAV-120'])).stderr).toContain(
      'deployment.exists',
    )
    const changed = await run([
      'tool',
      'change',
      'sextant-bench',
      '--place',
      'course_menu=Bench',
      '--place',
      'assignment',
    ])
    expect(changed.stdout).toMatch(/shows at +course menu, assignment/)
    expect((await run(['tool', 'change', 'sextant-bench', '--place', 'ceiling'])).status).toBe(1)
    expect((await run(['tool', 'offer', 'harbour-desk', 'HYD-210', 'NAV-120'])).stdout).toMatch(
      /offered to +HYD 210, NAV 120/,
    )
    expect((await run(['course', 'catalogue', 'MET-130', '--search', 'harbour'])).stdout).toContain(
      'No tool of that name',
    )
    expect((await run(['tool', 'offer', 'harbour-desk'])).status).toBe(2)
    expect((await run(['tool', 'offer', 'harbour-desk', '--all'])).stdout).toMatch(/offered to +all courses/)
    expect((await run(['course', 'add-tool', 'HYD-210', 'sextant-bench'])).stdout).toContain(
      'is in the menu as “Bench”',
    )
    expect((await run(['course', 'menu-change', 'HYD-210', 'Bench', '--to', '1', '--hide'])).stdout).toMatch(
      /1 hidden +Bench/,
    )
    expect((await run(['course', 'remove-tool', 'HYD-210', 'sextant-bench'])).stderr).toContain('tool.in_use')
    expect((await run(['course', 'menu-remove', 'HYD-210', 'Bench'])).stdout).not.toContain('Bench')
    expect((await run(['course', 'remove-tool', 'HYD-210', 'sextant-bench'])).status).toBe(0)
    expect((await run(['course', 'first-entry', 'HYD-210', 'harbour-desk', '--again'])).stdout).toContain(
      'waits for a first entry',
    )
    expect((await run(['course', 'menu', 'HYD-210'])).stdout).toMatch(/Harbour Desk.*waiting/)
  })

  it('deletes only after asking, and says how to bring it back', async () => {
    const asked = await run(['tool', 'delete', 'knotwork-drills-spare-key'])
    expect(asked.status).toBe(1)
    expect(asked.stderr).toContain('1 published')
    expect((await run(['tool', 'delete', 'knotwork-drills-spare-key', '--yes'])).stdout).toContain('tool restore')
    expect((await run(['tool', 'restore', 'knotwork-drills-spare-key'])).stdout).toContain('enabled')
  })
})
