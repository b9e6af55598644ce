import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createClient } from '@bathyscribe/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { removePostgres, startPostgres } from '@bathyscribe/yard/machine/postgres'
import { ROOT } from '@bathyscribe/yard/machine/place'
import { eventually } from '../eventually.js'

// As on a server: outside of the project's own folder, nothing of which is found from there.
const server = mkdtempSync(join(tmpdir(), 'bathyscribe-server-'))
const unpacked = join(server, 'opt/bathyscribe')
const command = join(server, 'usr-local-bin-bathyscribe')
const settings = join(server, 'settings.json')
const postgres = join(server, 'postgres')
let running: ChildProcess | undefined
let log = ''
let url = ''

const run = (...args: string[]) =>
  spawnSync(command, args, { cwd: server, encoding: 'utf8', env: { PATH: process.env['PATH'] } })

beforeAll(async () => {
  const made = spawnSync(process.execPath, [join(ROOT, 'scripts/package.mjs'), '--out', server], { encoding: 'utf8' })
  expect(made.stderr).toBe('')
  const [archive] = readdirSync(server).filter((name) => name.endsWith('.tar.gz'))
  spawnSync('mkdir', ['-p', unpacked])
  expect(spawnSync('tar', ['-xzf', join(server, archive!), '-C', unpacked, '--strip-components=1']).status).toBe(0)
  symlinkSync(join(unpacked, 'bin/bathyscribe'), command)
  const { url: databaseUrl } = await startPostgres(postgres, { settings: { fsync: 'off' } })
  const port = await freePort()
  url = `http://localhost:${port}`
  const sample = JSON.parse(readFileSync(join(unpacked, 'deploy/settings.json'), 'utf8')) as Record<string, unknown>
  writeFileSync(
    settings,
    JSON.stringify({ ...sample, publicUrl: url, databaseUrl, port, keyFile: join(server, 'keys.json') }),
  )
})
afterAll(async () => {
  running?.kill('SIGTERM')
  if (running)
    await new Promise((resolve) => (running!.exitCode === null ? running!.once('exit', resolve) : resolve(0)))
  removePostgres(postgres)
  rmSync(server, { recursive: true, force: true })
})

describe('the archive that is installed on a server', () => {
  it('holds what is needed at run time, and nothing that only developers need', () => {
    const packages = readdirSync(join(unpacked, 'node_modules'))
    for (const needed of ['fastify', 'typeorm', 'pg', 'zod', 'commander']) expect(packages).toContain(needed)
    for (const other of ['typescript', 'vite', 'vitest', 'eslint', 'oxfmt', 'fast-check', 'autocannon'])
      expect(packages).not.toContain(other)
    expect(readdirSync(join(unpacked, 'packages')).sort()).toEqual(['cli', 'console', 'contract', 'core', 'service'])
    for (const one of ['cli', 'service']) expect(existsSync(join(unpacked, 'packages', one, 'src'))).toBe(false)
  })

  it('lists what it is made of, with versions, for who looks for known faults', () => {
    interface Part {
      name: string
      version: string
    }
    const list = JSON.parse(readFileSync(join(unpacked, 'sbom.json'), 'utf8')) as {
      bomFormat: string
      metadata: { component: Part }
      components: Part[]
    }
    expect(list).toMatchObject({ bomFormat: 'CycloneDX', metadata: { component: { name: 'bathyscribe' } } })
    const listed = new Map(list.components.map((one) => [one.name, one.version]))
    const folder = join(unpacked, 'node_modules')
    const there = readdirSync(folder)
      .filter((name) => !name.startsWith('.') && name !== '@bathyscribe')
      .flatMap((name) => (name.startsWith('@') ? readdirSync(join(folder, name)).map((one) => `${name}/${one}`) : name))
    expect(there.filter((name) => !listed.has(name))).toEqual([])
    const { version } = JSON.parse(readFileSync(join(folder, 'fastify/package.json'), 'utf8')) as Part
    expect(listed.get('fastify')).toBe(version)
    // What lies in the console's files has no folder of its own.
    for (const name of ['vue', 'bootstrap']) expect([...listed.keys()]).toContain(name)
    for (const name of ['vitest', 'oxlint']) expect([...listed.keys()]).not.toContain(name)
  })

  it('is what its documentation says it is', () => {
    const documented = readFileSync(join(unpacked, 'docs/operating.md'), 'utf8')
    const unit = readFileSync(join(unpacked, 'deploy/bathyscribe.service'), 'utf8')
    for (const path of ['/opt/bathyscribe', '/etc/bathyscribe/settings.json']) {
      expect(documented).toContain(path)
      expect(unit).toContain(path)
    }
    const { version } = JSON.parse(readFileSync(join(ROOT, 'package.json'), 'utf8')) as { version: string }
    expect(run('--version').stdout.trim()).toBe(version)
  })

  it('makes the records, runs, serves the console, and takes the first administrator', async () => {
    const migrated = run('service', 'migrate', '--config', settings)
    expect(migrated.status, migrated.stderr).toBe(0)
    running = spawn(command, ['service', 'run', '--config', settings], {
      cwd: server,
      stdio: ['ignore', 'pipe', 'pipe'],
    })
    for (const stream of [running.stdout!, running.stderr!]) stream.on('data', (text) => (log += String(text)))
    await eventually(async () => expect((await fetch(`${url}/readyz`)).status).toBe(200))
    const page = await (await fetch(url, { headers: { accept: 'text/html' } })).text()
    const [, script] = /src="(\/assets\/[^"]+\.js)"/.exec(page)!
    expect((await fetch(url + script)).headers.get('content-type')).toContain('javascript')
    // It is said before the first answer, but what comes through a pipe is read when it is this process's turn.
    const code = await eventually(() => /enter the code (\S+)/.exec(log)![1]!)
    const client = createClient({ baseUrl: url, headers: () => ({}) })
    const password = 'lantern-and-lead-line'
    await client.call('setUp', { body: { code, username: 'ingrid', fullName: 'Ingrid Valesdottir', password } })
    const { person } = await client.call('signIn', { body: { username: 'ingrid', password } })
    expect(person).toMatchObject({ username: 'ingrid', siteRole: 'administrator' })
  })

  it('ends on SIGTERM, and goes on with the same records', async () => {
    const ended = new Promise((resolve) => running!.once('exit', resolve))
    running!.kill('SIGTERM')
    expect(await ended).toBe(0)
    running = spawn(command, ['service', 'run', '--config', settings], { cwd: server, stdio: 'ignore' })
    await eventually(async () => expect((await fetch(`${url}/readyz`)).status).toBe(200))
    const state = await createClient({ baseUrl: url, headers: () => ({}) }).call('setupState', {})
    expect(state.needed).toBe(false)
  })
})
