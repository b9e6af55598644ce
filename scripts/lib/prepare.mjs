// Brings a fresh machine to where the project can be started: Debian packages, npm packages, build. Each step only when needed.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'
import { postgresPrograms } from './postgres.mjs'

export const ROOT = fileURLToPath(new URL('../..', import.meta.url)).replace(/\/$/, '')
export const RUN = join(ROOT, '.run')
/** What a run of the tests leaves behind: its report, and evidence of what failed. */
export const REPORT = join(RUN, 'report')
/** Debian's Chromium without a window: it needs half the time of the one with. */
export const CHROMIUM = '/usr/bin/chromium-headless-shell'
const MINIMUM_NODE = [20, 19]

/** What Debian has to bring, and how to see that it is there. */
const DEBIAN = {
  postgresql: () => postgresPrograms() !== undefined,
  'chromium-headless-shell': () => existsSync(CHROMIUM),
  // The sample configuration of docs/ is tested with the real one.
  'nginx-light': () => existsSync('/usr/sbin/nginx'),
  // One script that Latin fonts lack is enough to know whether names can be drawn.
  'fonts-noto-core': () => existsSync('/usr/share/fonts/truetype/noto/NotoSansArabic-Regular.ttf'),
}

/** A sentence for the person at the terminal, and the end of the program. */
export class Stop extends Error {}

/** @param {{ browser?: boolean, say?: (line: string) => void }} options `browser`: also what the browser tests need */
export function prepare(options = {}) {
  const say = options.say ?? ((line) => console.log(line))
  checkNode()
  mkdirSync(RUN, { recursive: true })
  installDebianPackages(options.browser ? Object.keys(DEBIAN) : ['postgresql'], say)
  installNpmPackages(say)
  build(say)
}

function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < MINIMUM_NODE[0] || (major === MINIMUM_NODE[0] && minor < MINIMUM_NODE[1]))
    throw new Stop(`Node ${MINIMUM_NODE.join('.')} or later is needed; this is ${process.versions.node}.`)
}

function installDebianPackages(names, say) {
  const missing = names.filter((name) => !DEBIAN[name]())
  if (missing.length === 0) return
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`
  const isRoot = process.getuid?.() === 0
  const viaSudo = !isRoot && spawnSync('sudo', ['-n', 'true']).status === 0
  if (!existsSync('/usr/bin/apt-get')) throw new Stop(`Please install: ${missing.join(', ')}.`)
  if (!isRoot && !viaSudo)
    throw new Stop(`Some packages are missing. Please run this line, then start again:\n\n  sudo ${command}\n`)
  say(`Installing ${missing.join(', ')} …`)
  const run = (line) => {
    const [program, ...args] = [
      ...(viaSudo ? ['sudo', '-n', 'env'] : ['env']),
      'DEBIAN_FRONTEND=noninteractive',
      ...line.split(' '),
    ]
    const done = spawnSync(program, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })
    if (done.status !== 0) throw new Stop(`“${line}” failed:\n${done.stderr || done.stdout}`)
  }
  run('apt-get update -q')
  run(command)
}

function installNpmPackages(say) {
  const wanted = hashOf([join(ROOT, 'package-lock.json')])
  if (existsSync(join(ROOT, 'node_modules/typescript-7/bin/tsc')) && readMark('npm') === wanted) return
  say('Installing npm packages …')
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: ROOT,
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  if (done.status !== 0) throw new Stop('npm could not install the packages.')
  writeMark('npm', wanted)
}

function build(say) {
  const wanted = hashOf(sourceFiles())
  const built =
    existsSync(join(ROOT, 'packages/cli/dist/bathyscribe.js')) &&
    existsSync(join(ROOT, 'packages/console/dist/index.html'))
  if (built && readMark('build') === wanted) return
  say('Building …')
  const done = spawnSync('npm', ['run', 'build', '--silent'], { cwd: ROOT, encoding: 'utf8' })
  if (done.status !== 0) throw new Stop(`The build failed:\n${done.stdout}${done.stderr}`)
  writeMark('build', wanted)
}

function sourceFiles() {
  const files = ['package-lock.json', 'tsconfig.base.json', 'tsconfig.json'].map((name) => join(ROOT, name))
  const walk = (folder) => {
    for (const name of readdirSync(folder).sort()) {
      const path = join(folder, name)
      if (['node_modules', 'dist', 'test'].includes(name)) continue
      if (statSync(path).isDirectory()) walk(path)
      else files.push(path)
    }
  }
  walk(join(ROOT, 'packages'))
  return files
}

function hashOf(files) {
  const hash = createHash('sha256')
  for (const file of files) hash.update(relative(ROOT, file)).update(readFileSync(file))
  return hash.digest('hex')
}
function readMark(name) {
  const file = join(RUN, `${name}.mark`)
  return existsSync(file) ? readFileSync(file, 'utf8') : undefined
}
function writeMark(name, value) {
  writeFileSync(join(RUN, `${name}.mark`), value)
}
