// npm run demo: from a fresh machine to a running product with the demo scenario. See --help.
import { readFileSync, rmSync, writeFileSync, existsSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { prepare, RUN, Stop } from './lib/prepare.mjs'

const HELP = `npm run demo [-- OPTIONS]

  (none)       starts everything, loads the demo data once, runs until Ctrl-C
  --detach     returns when all answers; goes on in the background
  --stop       ends what --detach started
  --fresh      starts with new data
  --port N     the service's port (8080); 0 takes free ones for service and tools
  --json       prints addresses and an API token for programs
  --check      runs the example story on throw-away data and free ports, and checks its end
  --help       this text
`
const FOLDER = join(RUN, 'demo')

const { values: options } = parseArgs({
  options: {
    detach: { type: 'boolean' },
    stop: { type: 'boolean' },
    fresh: { type: 'boolean' },
    check: { type: 'boolean' },
    json: { type: 'boolean' },
    help: { type: 'boolean' },
    port: { type: 'string' },
  },
})
const say = (line) => (options.json ? process.stderr : process.stdout).write(`${line}\n`)

try {
  await main()
} catch (error) {
  if (!(error instanceof Stop)) throw error
  process.stderr.write(`${error.message}\n`)
  process.exitCode = 1
}

async function main() {
  if (options.help) return say(HELP.trimEnd())
  if (options.port !== undefined && !/^\d{1,5}$/.test(options.port))
    throw new Stop('--port takes a number; 0 takes free ports.')
  if (options.stop) {
    const { stopStack } = await import('./lib/stack.mjs')
    return say((await stopStack(FOLDER)) ? 'Stopped.' : 'Nothing was running.')
  }
  prepare({ say })
  if (options.check) {
    const { runStory } = await import('./lib/story.mjs')
    process.exitCode = await runStory(join(RUN, `check-${process.pid}`))
    return
  }
  await demo()
}

async function demo() {
  const { startStack, stopStack, setupCodeOf } = await import('./lib/stack.mjs')
  if (options.fresh) await stopStack(FOLDER, { remove: true })
  const port = options.port === undefined ? undefined : Number(options.port)
  const running = await startStack({ folder: FOLDER, servicePort: port, detached: options.detach })
  const seeded = join(FOLDER, 'seeded')
  if (!existsSync(seeded)) {
    say('Loading the demo data …')
    try {
      const { seed } = await import('./lib/seed.mjs')
      await seed({ ...running, setupCode: setupCodeOf(FOLDER), say })
    } catch (error) {
      // Half-loaded data would be taken for the demo next time.
      await stopStack(FOLDER, { remove: true })
      throw error
    }
    writeFileSync(seeded, '')
  }
  await tell(running)
  if (options.detach) return
  await new Promise((resolve) => process.once('SIGINT', resolve).once('SIGTERM', resolve))
  say('\nStopping …')
  await stopStack(FOLDER)
}

async function tell({ url, ...tools }) {
  const { PASSWORD } = await import('./lib/academy.mjs')
  if (options.json)
    return process.stdout.write(
      `${JSON.stringify({ url, ...addressesOf(tools), token: await apiToken(url, PASSWORD), password: PASSWORD })}\n`,
    )
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
On the command line: npx bathyscribe --url ${url} person sign-in --username ingrid
${options.detach ? 'Stop it with: npm run demo -- --stop' : 'Stop it with Ctrl-C.'}`)
}

function addressesOf({ knotwork, harbour, chandlery, sextant, plotting, signal, lantern, watchlog, tally, office }) {
  return { knotwork, harbour, chandlery, sextant, plotting, signal, lantern, watchlog, tally, office }
}

async function apiToken(url, password) {
  const kept = join(FOLDER, 'token')
  if (existsSync(kept)) return readFileSync(kept, 'utf8')
  const { signIn } = await import('./lib/browserless.mjs')
  const { client } = await signIn(url, 'ingrid', password)
  const { token } = await client.call('createToken', {
    body: { name: 'demo --json', scopes: ['read', 'teach', 'administer'], expiresInDays: 30 },
  })
  rmSync(kept, { force: true })
  writeFileSync(kept, token, { mode: 0o600 })
  return token
}
