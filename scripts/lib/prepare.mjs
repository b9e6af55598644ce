// Brings a fresh machine to where the project can be started: Debian packages, npm packages, build. Each step only when needed.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'

const ROOT = fileURLToPath(new URL('../..', import.meta.url)).replace(/\/$/, '')
const RUN = join(ROOT, '.run')
const MINIMUM_NODE = { major: 20, minor: 19 }
const MINIMUM_POSTGRESQL = 15
const NPM_TRIES = 3

/** What Debian has to bring, and how to see that it is there. */
const DEBIAN = {
  postgresql: hasPostgres,
  'chromium-headless-shell': () => existsSync('/usr/bin/chromium-headless-shell'),
  // The sample configuration of docs/ is tested with the real one.
  'nginx-light': () => existsSync('/usr/sbin/nginx'),
  // Commands in letters to support teams are run as they stand there.
  openssl: () => existsSync('/usr/bin/openssl'),
  curl: () => existsSync('/usr/bin/curl'),
  // One script that Latin fonts lack is enough to know whether names can be drawn.
  'fonts-noto-core': () => existsSync('/usr/share/fonts/truetype/noto/NotoSansArabic-Regular.ttf'),
}

/** A sentence for the person at the terminal, and the end of the program. */
class Stop extends Error {
  /** @override */
  name = 'Stop'
}

/**
 * Prepares the machine, and runs a command of the yard with what was given on the command line.
 * @param {string} name its file in packages/yard/src/commands
 * @param {{ browser?: boolean, quiet?: boolean }} [options] `browser`: also what the browser tests need; `quiet`: standard output belongs to the command
 */
export async function run(name, options = {}) {
  try {
    prepare(options)
    const found = /** @type {unknown} */ (await import(`../../packages/yard/dist/commands/${name}.js`))
    const command = /** @type {{ main: (args: string[]) => number | Promise<number> }} */ (found)
    process.exitCode = await command.main(process.argv.slice(2))
  } catch (error) {
    // The yard has a class of this name of its own: it is not there before it is built.
    if (!(error instanceof Error) || error.name !== 'Stop') throw error
    process.stderr.write(`${error.message}\n`)
    process.exitCode = 1
  }
}

/** @param {{ browser?: boolean, quiet?: boolean }} [options] */
export function prepare(options = {}) {
  /** @param {string} line */
  const say = (line) => void (options.quiet ? process.stderr : process.stdout).write(`${line}\n`)
  checkNode()
  mkdirSync(RUN, { recursive: true })
  installDebianPackages(options.browser ? Object.keys(DEBIAN) : ['postgresql'], say)
  installNpmPackages(say)
  build(say)
}

/** Whether a server of a version that will do is installed. */
function hasPostgres() {
  const root = '/usr/lib/postgresql'
  if (!existsSync(root)) return false
  return readdirSync(root).some(
    (name) => Number(name) >= MINIMUM_POSTGRESQL && existsSync(join(root, name, 'bin/initdb')),
  )
}

function checkNode() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number)
  if (major < MINIMUM_NODE.major || (major === MINIMUM_NODE.major && minor < MINIMUM_NODE.minor))
    throw new Stop(
      `Node ${MINIMUM_NODE.major}.${MINIMUM_NODE.minor} or later is needed; this is ${process.versions.node}.`,
    )
}

/**
 * @param {string[]} names
 * @param {(line: string) => void} say
 */
function installDebianPackages(names, say) {
  const missing = names.filter((name) => !DEBIAN[/** @type {keyof typeof DEBIAN} */ (name)]())
  if (missing.length === 0) return
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`
  const isRoot = process.getuid?.() === 0
  const viaSudo = !isRoot && spawnSync('sudo', ['-n', 'true']).status === 0
  if (!existsSync('/usr/bin/apt-get')) throw new Stop(`Please install: ${missing.join(', ')}.`)
  if (!isRoot && !viaSudo)
    throw new Stop(`Some packages are missing. Please run this line, then start again:\n\n  sudo ${command}\n`)
  say(`Installing ${missing.join(', ')} …`)
  /** @param {string} line */
  const install = (line) => {
    const [program, before] = viaSudo ? ['sudo', ['-n', 'env']] : ['env', []]
    const args = [...before, 'DEBIAN_FRONTEND=noninteractive', ...line.split(' ')]
    const done = spawnSync(program, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })
    if (done.status !== 0) throw new Stop(`“${line}” failed:\n${done.stderr || done.stdout}`)
  }
  install('apt-get update -q')
  install(command)
}

/** @param {(line: string) => void} say */
function installNpmPackages(say) {
  const wanted = hashOf([join(ROOT, 'package-lock.json')])
  if (existsSync(join(ROOT, 'node_modules/typescript-7/bin/tsc')) && readMark('npm') === wanted) return
  say('Installing npm packages …')
  for (let tries = 1; ; tries++) {
    const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
      cwd: ROOT,
      encoding: 'utf8',
      stdio: ['ignore', 'ignore', 'pipe'],
    })
    process.stderr.write(done.stderr)
    if (done.status === 0) break
    // npm asks again for what it cannot reach, but not where an answer breaks off in the middle. What has come is in its cache.
    if (tries === NPM_TRIES || !/npm error (network|code E(CONNRESET|TIMEDOUT|AI_AGAIN))/.test(done.stderr))
      throw new Stop('npm could not install the packages.')
    say('The connection broke off. Trying again …')
  }
  writeMark('npm', wanted)
}

/** @param {(line: string) => void} say */
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
  /** @param {string} folder */
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

/** @param {string[]} files */
function hashOf(files) {
  const hash = createHash('sha256')
  for (const file of files) hash.update(relative(ROOT, file)).update(readFileSync(file))
  return hash.digest('hex')
}

/** @param {string} name */
function readMark(name) {
  const file = join(RUN, `${name}.mark`)
  return existsSync(file) ? readFileSync(file, 'utf8') : undefined
}

/**
 * @param {string} name
 * @param {string} value
 */
function writeMark(name, value) {
  writeFileSync(join(RUN, `${name}.mark`), value)
}
