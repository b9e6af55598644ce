import PgBoss from 'pg-boss'
import type { DataSource } from 'typeorm'
import type { Context } from '../desk/context.js'
import { settleVerdicts } from '../desk/diagnosis/judge.js'
import { mailLetters } from '../desk/cases/mail-letters.js'
import { mailSignInLinks } from '../desk/identity/sign-in-links.js'
import { sendDueDigests } from '../desk/mail/send-digest.js'
import { runSounding, type Outcome } from '../desk/soundings/run-sounding.js'
import { found } from '@bathyscribe/core/checks'
import { interruptStale, SOUNDING_LIMIT_MS, STOPPED } from '../desk/soundings/start-sounding.js'
import { rotateWhenDue } from '../desk/platform/keyring.js'
import { purgeDeleted } from '../desk/tools/end-tool.js'
import { expire, expireStrangers } from '../records/expiry.js'
import { dropWireParts, makeWireParts } from '../records/wire-partitions.js'

const SOUNDING = 'sounding'
const DAY_MS = 24 * 3600_000
/** So long an account is known where it signed in from. */
const SIGN_IN_PLACE_DAYS = 180
/** So long what strangers sent is kept. */
const STRANGER_DAYS = 7
const STOP_WAIT_MS = 15_000

export interface Jobs {
  sound(soundingId: string): Promise<void>
  /** Stops taking work; what is being done is finished, or marked as interrupted after a while. */
  stop(): Promise<void>
}

/** Starts the queue's workers: soundings, and the nightly expiry of what ages. The queue lives beside the records, in its own schema. */
export async function startJobs(context: Context, database: DataSource): Promise<Jobs> {
  await makeWireParts(database)
  const { settings, log } = context
  const boss = new PgBoss({
    connectionString: settings.databaseUrl,
    schema: settings.databaseSchema === 'public' ? 'bathyscribe_queue' : `${settings.databaseSchema}_queue`,
    max: 3,
    application_name: 'bathyscribe queue',
  })
  boss.on('error', (error) => log.warn({ reason: error.message }, 'the queue could not reach its records'))
  await boss.start()
  await boss.createQueue(SOUNDING, { name: SOUNDING, retryLimit: 0, expireInSeconds: SOUNDING_LIMIT_MS / 1000 + 30 })

  const stopping = new AbortController()
  /** Soundings that are running, those that wait for a person included. */
  const atWork = new Set<Promise<unknown>>()
  const worker = await boss.work<{ soundingId: string }>(
    SOUNDING,
    { pollingIntervalSeconds: 1, batchSize: 4 },
    async (jobs) => {
      // One that waits for a person goes on by itself; the worker takes the next in the meantime.
      await Promise.all(
        jobs.map(({ data }) =>
          untilWaiting((onWait) => {
            const work: Promise<unknown> = soundOne(context, data.soundingId, stopping.signal, onWait).finally(() =>
              atWork.delete(work),
            )
            atWork.add(work)
            return work
          }),
        ),
      )
    },
  )
  /** Does something by the clock, in one process at a time. */
  const regularly = async (
    name: string,
    at: { cron: string; pollingIntervalSeconds: number; retryLimit: number },
    work: () => Promise<unknown>,
  ) => {
    const { cron, pollingIntervalSeconds, retryLimit } = at
    await boss.createQueue(name, { name, retryLimit })
    await boss.work(name, { pollingIntervalSeconds }, work)
    await boss.schedule(name, cron)
  }
  const eachMinute = { cron: '* * * * *', pollingIntervalSeconds: 10, retryLimit: 0 }
  const eachHour = { cron: '17 * * * *', pollingIntervalSeconds: 60, retryLimit: 2 }
  await regularly('expiry', eachHour, () => expireAll(context, database))
  await regularly('digests', { cron: '*/10 * * * *', pollingIntervalSeconds: 60, retryLimit: 0 }, () => sendDueDigests(context)) // oxfmt-ignore
  await regularly('sign-in-links', eachMinute, () => mailSignInLinks(context))
  await regularly('letters', eachMinute, () => mailLetters(context))
  await regularly('verdicts', eachMinute, () => settleVerdicts(context))
  await interruptStale(context)

  return {
    async sound(soundingId) {
      await boss.send(SOUNDING, { soundingId })
      boss.notifyWorker(worker)
    },
    async stop() {
      setTimeout(() => stopping.abort(new Error('The service is stopping.')), STOP_WAIT_MS - 3000).unref()
      await boss.stop({ graceful: true, wait: true, timeout: STOP_WAIT_MS })
      stopping.abort(new Error('The service is stopping.'))
      await Promise.all(atWork)
    },
  }
}

/** Runs a started sounding to its end; what cannot be finished is marked as interrupted. Never throws. @returns what it came to; undefined when it came to no end */
export async function soundOne(
  context: Context,
  soundingId: string,
  stopping: AbortSignal,
  onWait?: () => void,
): Promise<Outcome | undefined> {
  try {
    return await runSounding(context, soundingId, stopping, onWait)
  } catch (error) {
    context.log.error({ err: error, soundingId }, 'a sounding could not be finished')
    const headline = stopping.aborted ? STOPPED : found('sounding', 'not_finished', {})
    await context.records.soundings
      .interrupt(soundingId, context.clock.now(), headline)
      .catch((reason: unknown) => context.log.error({ err: reason }, 'nor marked as interrupted'))
    return undefined
  }
}

/** Settles when the work is done, or when it begins to wait. */
function untilWaiting(work: (onWait: () => void) => Promise<unknown>): Promise<void> {
  return new Promise((resolve, reject) => {
    work(resolve).then(() => resolve(), reject)
  })
}

async function expireAll(context: Context, database: DataSource): Promise<void> {
  const { settings, clock, log } = context
  const now = clock.now()
  const daysAgo = (days: number) => new Date(now.getTime() - days * DAY_MS)
  await makeWireParts(database)
  const gone = {
    nonces: await expire(database, 'nonce', now),
    sessions: await expire(database, 'session', now),
    passwordMisses: await expire(database, 'password_miss', daysAgo(1)),
    signInPlaces: await expire(database, 'sign_in_place', daysAgo(SIGN_IN_PLACE_DAYS)),
    signInLinks: await expire(database, 'sign_in_link', daysAgo(1)),
    invitations: await expire(database, 'invitation', daysAgo(1)),
    pickings: await expire(database, 'picking', daysAgo(30)),
    contents: await context.files.sweep((keys) => context.records.files.keptOf(keys), now),
    assignments: await context.records.assignments.purge(daysAgo(settings.undoDays)),
    pictures: await expire(database, 'sounding_picture', daysAgo(settings.wireDays)),
    wireParts: await dropWireParts(database, daysAgo(settings.wireDays)),
    strangerMinutes: await expire(database, 'stranger_minute', daysAgo(1)),
    rations: await expire(database, 'ration', now),
    setupCodes: await expire(database, 'setup_code', daysAgo(30)),
    strangers: await expireStrangers(database, daysAgo(STRANGER_DAYS)),
    wireEntries: await expire(database, 'wire_entry', daysAgo(settings.wireDays)),
    auditEntries: await expire(database, 'audit_entry', daysAgo(settings.auditDays)),
  }
  await interruptStale(context)
  const registrations = await purgeDeleted(context)
  await rotateWhenDue(context)
  log.info({ ...gone, registrations }, 'expired')
}
