import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { cpSync, existsSync, mkdirSync, readFileSync, rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs'
import { basename, join, relative } from 'node:path'
import { parseArgs } from 'node:util'
import { ROOT, RUN, say, Stop } from '../machine/place.js'

const PACKAGES = ['core', 'contract', 'service', 'cli', 'console']
const DOCS = ['operating.md', 'security.md', 'errors.md', 'nginx-example.conf']
/** What only people who develop read. */
const LEFT_OUT = /\.(map|tsbuildinfo|d\.[cm]?ts)$/

interface Manifest {
  name: string
  version: string
  license?: unknown
}

function readJson<T>(file: string): T {
  return JSON.parse(readFileSync(file, 'utf8')) as T
}

function run(program: string, args: string[], cwd = ROOT): string {
  const done = spawnSync(program, args, { cwd, encoding: 'utf8', maxBuffer: 64 * 1024 * 1024 })
  if (done.status !== 0) throw new Stop(`“${program} ${args[0]}” failed:\n${done.stderr}`)
  return done.stdout
}

/** Folders of what a part of the house needs at run time. */
function foldersOf(workspace: string): string[] {
  const listed = run('npm', ['ls', '--workspace', `@bathyscribe/${workspace}`, '--omit=dev', '--all', '--parseable'])
  return listed
    .split('\n')
    .filter((path) => path.startsWith(`${ROOT}/node_modules/`) && !path.includes('/@bathyscribe/'))
}

/** What is nested in one comes along with it. */
const isNested = (path: string) => path.split('/node_modules/').length > 2

function copy(from: string, to: string): void {
  if (existsSync(from)) cpSync(from, to, { recursive: true, filter: (path) => !LEFT_OUT.test(path) })
}

/** What the archive is made of, as scanners for known faults read it (CycloneDX 1.5, JSON). */
function listOfParts(version: string, folders: string[]): string {
  const { packages: locked } = readJson<{ packages: Record<string, { integrity: string }> }>(
    join(ROOT, 'package-lock.json'),
  )
  const components = folders.map((path) => {
    const { name, version, license } = readJson<Manifest>(join(path, 'package.json'))
    const purl = `pkg:npm/${name.replace('@', '%40')}@${version}`
    const [algorithm = '', hash = ''] = locked[relative(ROOT, path)]!.integrity.split('-')
    return {
      type: 'library',
      'bom-ref': relative(ROOT, path),
      name,
      version,
      purl,
      ...(typeof license === 'string' && { licenses: [{ expression: license }] }),
      hashes: [{ alg: algorithm.replace('sha', 'SHA-'), content: Buffer.from(hash, 'base64').toString('hex') }],
    }
  })
  const component = { type: 'application', 'bom-ref': 'bathyscribe', name: 'bathyscribe', version }
  const list = { bomFormat: 'CycloneDX', specVersion: '1.5', version: 1, metadata: { component }, components }
  return `${JSON.stringify(list, null, 2)}\n`
}

/** @returns where the archive lies */
function pack(out: string): string {
  const { version, license } = readJson<Manifest>(join(ROOT, 'package.json'))
  const name = `bathyscribe-${version}`
  const folder = join(out, name)
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(join(folder, 'node_modules/@bathyscribe'), { recursive: true })
  for (const one of PACKAGES) {
    for (const part of ['package.json', 'dist', 'bin'])
      copy(join(ROOT, 'packages', one, part), join(folder, 'packages', one, part))
    symlinkSync(`../../packages/${one}`, join(folder, 'node_modules/@bathyscribe', one))
  }
  const needed = foldersOf('cli')
  for (const path of needed) if (!isNested(path)) copy(path, join(folder, relative(ROOT, path)))
  for (const one of DOCS) copy(join(ROOT, 'docs', one), join(folder, 'docs', one))
  copy(join(ROOT, 'deploy'), join(folder, 'deploy'))
  copy(join(ROOT, 'LICENSE'), join(folder, 'LICENSE'))
  // What the console's files are made of has no folder in the archive.
  writeFileSync(
    join(folder, 'sbom.json'),
    listOfParts(version, [...new Set([...needed, ...foldersOf('console')])].sort()),
  )
  mkdirSync(join(folder, 'bin'))
  writeFileSync(
    join(folder, 'bin/bathyscribe'),
    '#!/bin/sh\nexec node "$(dirname "$(readlink -f "$0")")/../packages/cli/bin/bathyscribe.js" "$@"\n',
    { mode: 0o755 },
  )
  writeFileSync(join(folder, 'package.json'), `${JSON.stringify({ name, version, license, private: true }, null, 2)}\n`)
  const archive = join(out, `${name}-${process.platform}-${process.arch}.tar.gz`)
  run('tar', ['--owner=0', '--group=0', '--sort=name', '-czf', archive, '-C', out, name])
  rmSync(folder, { recursive: true, force: true })
  return archive
}

/** One archive with all that a server needs beside Node.js and PostgreSQL, for this kind of machine. */
export function main(args: string[]): number {
  const { values } = parseArgs({ args, options: { out: { type: 'string', default: join(RUN, 'package') } } })
  const archive = pack(values.out)
  const hash = createHash('sha256').update(readFileSync(archive)).digest('hex')
  say(`${(statSync(archive).size / 1024 / 1024).toFixed(1)} MiB  ${relative(process.cwd(), archive)}`)
  say(`sha256 ${hash}  ${basename(archive)}`)
  say(`How it is installed stands in ${relative(process.cwd(), join(ROOT, 'docs/operating.md'))}.`)
  return 0
}
