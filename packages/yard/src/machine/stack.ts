// The whole product as processes: records, service, practice tools. Started together, stopped together.
import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { closeSync, existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { freePort, freeRow } from './ports.js'
import { removePostgres, startPostgres, stopPostgres } from './postgres.js'
import { CLI, ROOT, Stop } from './place.js'

const PRACTICE = join(ROOT, 'packages/practice-tools/bin/practice-tools.js')
const OFFICE = join(ROOT, 'packages/practice-office/bin/practice-office.js')
const SIGN_ON = join(ROOT, 'packages/practice-sign-on/bin/practice-sign-on.js')
const START_LIMIT_MS = 60_000
/** The practice tools in the order of their ports. */
const TOOLS = [
  'knotwork',
  'harbour',
  'chandlery',
  'sextant',
  'plotting',
  'signal',
  'lantern',
  'watchlog',
  'tally',
] as const
/** The records office and the identity provider stand behind them in the row of ports. */
const OFFICE_AT = 9
const SIGN_ON_AT = 10

/** Where the parts of a running product are reached. */
export type Addresses = Record<(typeof TOOLS)[number] | 'office' | 'signOn', string>

export interface Running extends Addresses {
  servicePort: number
  toolsPort: number
  url: string
  /** Of the service, the tools, the office and the identity provider, in this order. */
  pids: [number, number, number, number]
}

export interface StackOptions {
  folder: string
  servicePort?: number | undefined
  toolsPort?: number
  serverSettings?: Record<string, string>
  detached?: boolean | undefined
  /** The records are known to be of this version, which to look at costs as much as a start. */
  migrated?: boolean
  extraEnvironment?: Record<string, string>
}

/** Starts what is not running yet. The service is reached as localhost, the tools as 127.0.0.1: another site, as in the field. */
export async function startStack(options: StackOptions): Promise<Running & { fresh: boolean }> {
  const { folder } = options
  mkdirSync(folder, { recursive: true })
  const before = readState(folder)
  if (before && before.pids.every(isAlive) && (await answers(`${before.url}/readyz`)))
    return { ...before, fresh: false }
  if (before) stopProcesses(before)

  const postgres = await startPostgres(join(folder, 'postgres'), { settings: options.serverSettings ?? {} })
  const ports = await choosePorts(options, before)
  const url = `http://localhost:${ports.servicePort}`
  const environment = {
    ...process.env,
    BATHYSCRIBE_PUBLIC_URL: url,
    BATHYSCRIBE_HOST: '127.0.0.1',
    BATHYSCRIBE_PORT: String(ports.servicePort),
    BATHYSCRIBE_DATABASE_URL: postgres.url,
    BATHYSCRIBE_KEY_FILE: join(folder, 'keys.json'),
    BATHYSCRIBE_PLATFORM_NAME: 'Skerrow Maritime Academy',
    BATHYSCRIBE_CONTACT_EMAIL: 'ingrid.valesdottir@skerrow.example',
    BATHYSCRIBE_OUTGOING_ALLOW: '127.0.0.0/8,::1/128',
    BATHYSCRIBE_LOG_LEVEL: 'warn',
    // Practice tools are all that its browser ever meets.
    BATHYSCRIBE_BROWSER_SANDBOX: process.getuid?.() === 0 ? 'off' : 'on',
    ...options.extraEnvironment,
  }
  if (!options.migrated) migrate(environment)

  const service = launch([CLI, 'service', 'run'], environment, join(folder, 'service.log'), options.detached)
  const tools = launch(
    [PRACTICE, '127.0.0.1', String(ports.toolsPort), folder],
    process.env,
    join(folder, 'tools.log'),
    options.detached,
  )
  const office = launch(
    [OFFICE, '127.0.0.1', String(ports.toolsPort + OFFICE_AT), folder],
    process.env,
    join(folder, 'office.log'),
    options.detached,
  )
  const signOn = launch(
    [SIGN_ON, '127.0.0.1', String(ports.toolsPort + SIGN_ON_AT), url],
    process.env,
    join(folder, 'sign-on.log'),
    options.detached,
  )
  const at = (i: number) => `http://127.0.0.1:${ports.toolsPort + i}`
  const addresses = {
    ...Object.fromEntries(TOOLS.map((name, i) => [name, at(i)])),
    office: at(OFFICE_AT),
    signOn: at(SIGN_ON_AT),
  } as Addresses
  const running: Running = {
    ...ports,
    url,
    ...addresses,
    pids: [pidOf(service), pidOf(tools), pidOf(office), pidOf(signOn)],
  }
  writeFileSync(join(folder, 'state.json'), JSON.stringify(running), { mode: 0o600 })
  try {
    await until(() => answers(`${url}/readyz`), service, join(folder, 'service.log'))
    await until(() => answers(`${addresses.tally}/`), tools, join(folder, 'tools.log'))
    await until(() => answers(`${addresses.office}/`), office, join(folder, 'office.log'))
    await until(() => answers(`${addresses.signOn}/`), signOn, join(folder, 'sign-on.log'))
  } catch (error) {
    stopProcesses(running)
    throw error
  }
  return { ...running, fresh: true }
}

function migrate(env: NodeJS.ProcessEnv): void {
  const done = spawnSync(process.execPath, [CLI, 'service', 'migrate', '--quiet'], { env, encoding: 'utf8' })
  if (done.status !== 0) throw new Stop(`The records could not be brought up to date:\n${done.stderr}`)
}

/** Ends what `startStack` started, in order: service and tools first, then the records. */
export async function stopStack(folder: string, options: { remove?: boolean } = {}): Promise<boolean> {
  const running = readState(folder)
  if (running) {
    stopProcesses(running)
    await waitForEnd(running.pids)
  }
  if (options.remove) {
    removePostgres(join(folder, 'postgres'))
    rmSync(folder, { recursive: true, force: true })
  } else stopPostgres(join(folder, 'postgres'))
  return running !== undefined
}

/** The set-up code that the service printed when it started without an administrator. */
export function setupCodeOf(folder: string): string {
  const log = readFileSync(join(folder, 'service.log'), 'utf8')
  const code = [...log.matchAll(/enter the code (\S+)/g)].at(-1)?.[1]
  if (code === undefined) throw new Stop('The service printed no set-up code.')
  return code
}

async function choosePorts({ servicePort, toolsPort }: StackOptions, before: Running | undefined) {
  const wantsRow = toolsPort === 0 || (toolsPort === undefined && servicePort === 0 && !before)
  const ports = {
    servicePort: servicePort === 0 ? await freePort() : (servicePort ?? before?.servicePort ?? 8080),
    toolsPort: wantsRow ? await freeRow() : (toolsPort ?? before?.toolsPort ?? 9101),
  }
  for (const [name, port] of Object.entries(ports))
    if (await answers(`http://127.0.0.1:${port}/`))
      throw new Stop(
        `Port ${port} is taken by another program (${name === 'servicePort' ? 'service' : 'practice tools'}). Choose others with: npm run demo -- --port 0`,
      )
  return ports
}

function launch(args: string[], env: NodeJS.ProcessEnv, logFile: string, detached = false): ChildProcess {
  const log = openSync(logFile, 'w', 0o600)
  // A group of its own: Ctrl-C in the terminal reaches the start command, which then ends this in order.
  const child = spawn(process.execPath, args, { env, cwd: ROOT, detached: true, stdio: ['ignore', log, log] })
  closeSync(log)
  if (detached) child.unref()
  return child
}

function pidOf({ pid }: ChildProcess): number {
  if (pid === undefined) throw new Stop('A part of the product could not be started.')
  return pid
}

async function until(ready: () => Promise<boolean>, child: ChildProcess, logFile: string): Promise<void> {
  const limit = Date.now() + START_LIMIT_MS
  while (Date.now() < limit) {
    if (await ready()) return
    if (child.exitCode !== null)
      throw new Stop(`A part of the product did not start:\n${readFileSync(logFile, 'utf8').slice(-3000)}`)
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Stop(`A part of the product did not answer in time; its log is ${logFile}.`)
}

async function answers(url: string): Promise<boolean> {
  try {
    return (await fetch(url, { signal: AbortSignal.timeout(2000) })).ok
  } catch {
    return false
  }
}

function readState(folder: string): Running | undefined {
  const file = join(folder, 'state.json')
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Running) : undefined
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    // A number that another program has since been given does not count.
    return /bathyscribe|practice-(tools|office|sign-on)/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'))
  } catch {
    return false
  }
}

function stopProcesses({ pids }: Running): void {
  for (const pid of pids) if (isAlive(pid)) process.kill(pid, 'SIGTERM')
}

async function waitForEnd(pids: readonly number[]): Promise<void> {
  const limit = Date.now() + 20_000
  while (pids.some(isAlive) && Date.now() < limit) await new Promise((resolve) => setTimeout(resolve, 50))
  for (const pid of pids) if (isAlive(pid)) process.kill(pid, 'SIGKILL')
}
