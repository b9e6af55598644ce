import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { createClient } from '@bathyscribe/contract'
import { PASSWORD } from '../academy/academy.js'
import { signIn } from '../academy/browserless.js'
import { seed } from '../academy/seed.js'
import { runStory } from '../academy/story.js'
import { RUN, say, sayBeside, Stop, type Say } from '../machine/place.js'
import { setupCodeOf, startStack, stopStack, type Addresses, type Running } from '../machine/stack.js'

const FOLDER = join(RUN, 'demo')
/** The empty one keeps its own data. */
const EMPTY_FOLDER = join(RUN, 'empty')

function read(args: string[]) {
  return parseArgs({
    args,
    options: {
      detach: { type: 'boolean' },
      stop: { type: 'boolean' },
      fresh: { type: 'boolean' },
      check: { type: 'boolean' },
      empty: { type: 'boolean' },
      json: { type: 'boolean' },
      port: { type: 'string' },
    },
  }).values
}
type Options = ReturnType<typeof read>

/** From a built project to a running product with the demo scenario; what the options mean stands in the script that calls it. */
export async function main(args: string[]): Promise<number> {
  const options = read(args)
  const tell = options.json ? sayBeside : say
  if (options.port !== undefined && !/^\d{1,5}$/.test(options.port))
    throw new Stop('--port takes a number; 0 takes free ports.')
  if (options.stop) {
    tell((await stopStack(options.empty ? EMPTY_FOLDER : FOLDER)) ? 'Stopped.' : 'Nothing was running.')
    return 0
  }
  if (options.check) return runStory(join(RUN, `check-${process.pid}`))
  if (options.empty) await empty(options, tell)
  else await demo(options, tell)
  return 0
}

async function demo(options: Options, tell: Say): Promise<void> {
  if (options.fresh) await stopStack(FOLDER, { remove: true })
  const port = options.port === undefined ? undefined : Number(options.port)
  const running = await startStack({ folder: FOLDER, servicePort: port, detached: options.detach })
  const seeded = join(FOLDER, 'seeded')
  if (!existsSync(seeded)) {
    tell('Loading the demo data …')
    try {
      await seed({ ...running, setupCode: setupCodeOf(FOLDER), say: tell })
    } catch (error) {
      // Half-loaded data would be taken for the demo next time.
      await stopStack(FOLDER, { remove: true })
      throw error
    }
    writeFileSync(seeded, '')
  }
  await tellAddresses(running, options)
  await stay(FOLDER, options, tell)
}

/** A service with nothing in it, for whoever wants to begin at the beginning (docs/first-hour.md). */
async function empty(options: Options, tell: Say): Promise<void> {
  if (options.fresh) await stopStack(EMPTY_FOLDER, { remove: true })
  const port = options.port === undefined ? undefined : Number(options.port)
  const running = await startStack({ folder: EMPTY_FOLDER, servicePort: port, detached: options.detach })
  const { url } = running
  const { needed } = await createClient({ baseUrl: url, headers: () => ({}) }).call('setupState', {})
  const setupCode = needed ? setupCodeOf(EMPTY_FOLDER) : null
  if (options.json) say(JSON.stringify({ url, ...addressesOf(running), setupCode }))
  else
    say(`
Bathyscribe is running at ${url}, with ${needed ? 'nothing in it' : 'what you have made in it so far'}.
${setupCode === null ? '' : `\nThe set-up code: ${setupCode}\n`}
docs/first-hour.md leads from here to ten proven assignments.
${howToStop(options)}`)
  await stay(EMPTY_FOLDER, options, tell)
}

const howToStop = ({ detach, empty: isEmpty }: Options) =>
  detach ? `Stop it with: npm run demo -- --stop${isEmpty ? ' --empty' : ''}` : 'Stop it with Ctrl-C.'

/** Until Ctrl-C, unless it goes on in the background. */
async function stay(folder: string, { detach }: Options, tell: Say): Promise<void> {
  if (detach) return
  await new Promise((resolve) => process.once('SIGINT', resolve).once('SIGTERM', resolve))
  tell('\nStopping …')
  await stopStack(folder)
}

async function tellAddresses({ url, ...tools }: Running, options: Options): Promise<void> {
  if (options.json) {
    const told = { url, ...addressesOf(tools), token: await apiToken(url), password: PASSWORD }
    return say(JSON.stringify(told))
  }
  say(`
Bathyscribe is running at ${url}

  sign in as     user name   password
  technologist   ingrid      ${PASSWORD}
  instructor     tomas       ${PASSWORD}
  learner        niamh       ${PASSWORD}

The practice tools show what a vendor would hand over:
  Knotwork Drills  ${tools.knotwork}    Harbour Desk     ${tools.harbour}
  Chandlery Shelf  ${tools.chandlery}    Sextant Bench    ${tools.sextant}
  Plotting Table   ${tools.plotting}    Signal Mast      ${tools.signal}
  Lantern Margins  ${tools.lantern}    Watchlog Essays  ${tools.watchlog}
  Tally Bench      ${tools.tally}
Results go on to the practice records office at ${tools.office}
Niamh and Tomas also sign in with the practice identity provider at ${tools.signOn}
On the command line: npx bathyscribe --url ${url} person sign-in --username ingrid
${howToStop(options)}`)
}

function addressesOf({
  knotwork,
  harbour,
  chandlery,
  sextant,
  plotting,
  signal,
  lantern,
  watchlog,
  tally,
  office,
  signOn,
}: Addresses): Addresses {
  return { knotwork, harbour, chandlery, sextant, plotting, signal, lantern, watchlog, tally, office, signOn }
}

async function apiToken(url: string): Promise<string> {
  const kept = join(FOLDER, 'token')
  if (existsSync(kept)) return readFileSync(kept, 'utf8')
  const { client } = await signIn(url, 'ingrid', PASSWORD)
  const { token } = await client.call('createToken', {
    body: { name: 'demo --json', scopes: ['read', 'teach', 'administer'], expiresInDays: 30 },
  })
  writeFileSync(kept, token, { mode: 0o600 })
  return token
}
