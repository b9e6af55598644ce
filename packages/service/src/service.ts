import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { FastifyInstance } from 'fastify'
import { pino } from 'pino'
import type { Context } from './desk/context.js'
import { FileStore } from './desk/files/file-store.js'
import { createKeyring } from './desk/platform/keyring.js'
import { createMemory } from './desk/platform/memory.js'
import { offerSetupCode } from './desk/identity/set-up.js'
import { createProviders } from './desk/sign-on/provider-client.js'
import { createToolKeysets } from './desk/tools/keysets.js'
import { formPage, PAGE_ASSETS, stagePage } from './http/pages.js'
import { createServer } from './http/server.js'
import { startHandingOn } from './jobs/hand-on.js'
import { soundOne, startJobs } from './jobs/queue.js'
import { startSweeping } from './jobs/sweep.js'
import { randomIds, systemClock, type Clock, type Ids } from './keys/ids.js'
import { checkKeys } from './keys/check-keys.js'
import { readKeys } from './keys/key-file.js'
import { cancelAbandoned } from './records/abandoned.js'
import { createChanges } from './records/changes.js'
import { createDatabase, openDatabase, openMessagePool, poolOf, requireMigrated } from './records/database.js'
import { createStatements, Records } from './records/index.js'
import { createKeyUses } from './records/statements/key-use.js'
import type { Settings } from './settings/settings.js'
import { createBrowserFollower } from './wire/browser/follow.js'
import { createMailer } from './wire/mailer.js'
import { createOutgoing } from './wire/outgoing.js'
import { createWorkers } from './workers/pool.js'

export interface RunningService {
  app: FastifyInstance
  context: Context
  /** Where it listens. */
  address: string
  /** A code with which the first administrator can be made; undefined when there is one. */
  setupCode: string | undefined
  /** Finishes the requests in hand, then ends everything it started. */
  stop(): Promise<void>
}

const PACKAGE = JSON.parse(readFileSync(fileURLToPath(new URL('../package.json', import.meta.url)), 'utf8')) as {
  version: string
}
const CONSOLE_FOLDER = fileURLToPath(new URL('../../console/dist', import.meta.url))

/**
 * Starts the service. What was started is ended again when a later step fails.
 * @param options `offer` is told the set-up code, if there is one, before the first call is answered: whoever sees that the service is ready finds the code in the log
 */
export async function startService(
  settings: Settings,
  options: { clock?: Clock; ids?: Ids; offer?: (setupCode: string) => void } = {},
): Promise<RunningService> {
  const undo: (() => Promise<unknown>)[] = []
  const unwind = () => release(undo)
  try {
    const clock = options.clock ?? systemClock
    const log = pino({ level: settings.logLevel, base: { service: 'bathyscribe' } })
    const keys = readKeys(settings.keyFile)
    const database = createDatabase(settings)
    await openDatabase(database)
    undo.push(() => database.destroy())
    await requireMigrated(database)
    await checkKeys(database, keys, settings.keyFile)
    const messages = await openMessagePool(settings)
    undo.push(() => messages.end())
    cancelAbandoned(poolOf(database), messages)
    const outgoing = createOutgoing(settings)
    undo.push(() => outgoing.close())
    const browser = createBrowserFollower(settings, { assets: PAGE_ASSETS, form: formPage, stage: stagePage })
    undo.push(() => browser.close())
    const changes = createChanges(poolOf(database), settings.databaseUrl, settings.databaseSchema, (error) =>
      log.warn({ reason: (error as Error).message }, 'changes could not be told'),
    )
    undo.push(() => changes.close())
    const records = new Records(database.manager)
    const keyUses = createKeyUses(poolOf(database), (error) =>
      log.warn({ reason: (error as Error).message }, 'uses of keys could not be counted'),
    )
    undo.push(() => keyUses.close())
    const workers = createWorkers()
    undo.push(() => workers.close())
    const context: Context = {
      workers,
      records,
      statements: createStatements(messages, () => clock.now(), settings.sessionIdleMinutes * 60_000),
      outgoing,
      browser,
      changes,
      clock,
      ids: options.ids ?? randomIds,
      keys,
      keyring: createKeyring({ records, keys, clock, keyUses }),
      toolKeysets: createToolKeysets({ records, outgoing, clock, cacheMinutes: settings.keysetMinutes }),
      providers: createProviders({ keys, outgoing, settings }),
      keyUses,
      memory: createMemory(),
      files: new FileStore(
        settings.filesFolder || join(dirname(settings.keyFile), 'files'),
        settings.fileMegabytes * 1_048_576,
      ),
      mailer: createMailer(settings),
      settings,
      version: PACKAGE.version,
      log,
    }
    if (browser.reason !== null && settings.browser !== 'none')
      log.warn({ reason: browser.reason }, 'soundings cannot go through a browser')
    await noteOwnAddress(context)
    const jobs = await startJobs(context, database)
    undo.push(() => jobs.stop())
    const handingOn = startHandingOn(context)
    undo.push(() => handingOn.stop())
    const sweeping = startSweeping(context, (id, stopping) => soundOne(context, id, stopping))
    undo.push(() => sweeping.stop())
    const app = await createServer({ context, database, consoleFolder: CONSOLE_FOLDER, sound: (id) => jobs.sound(id) })
    undo.push(() => app.close())
    const setupCode = await offerSetupCode(context)
    if (setupCode !== undefined) options.offer?.(setupCode)
    const address = await app.listen({ host: settings.host, port: settings.port })
    return { app, context, address, setupCode, stop: unwind }
  } catch (error) {
    // What could not be ended after it is less than what went wrong first.
    await unwind().catch(() => undefined)
    throw error
  }
}

/** Tools keep the address that they were told: that it is another one now is said at the start, before they say it themselves. */
async function noteOwnAddress({ records, settings: { publicUrl }, clock, log }: Context): Promise<void> {
  const isFirst = await records.ownAddresses.note(publicUrl, clock.now())
  const [before] = isFirst ? await records.ownAddresses.earlier(publicUrl) : []
  if (before !== undefined)
    log.warn(
      { before, now: publicUrl },
      'the public address is another one than before: tools of LTI 1.3 know this platform by the earlier one as issuer, and tools of LTI 1.1 send scores there. Enter the new one at the tools, or put `publicUrl` back',
    )
}

/** Ends what was started, the last first; one that fails holds back none of the others. @throws AggregateError of all that failed */
async function release(undo: (() => Promise<unknown>)[]): Promise<void> {
  const failed: unknown[] = []
  for (const step of undo.splice(0).reverse()) await step().catch((error: unknown) => failed.push(error))
  if (failed.length > 0) throw new AggregateError(failed, 'Not everything that was started could be ended.')
}
