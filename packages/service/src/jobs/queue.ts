import PgBoss from 'pg-boss'
import type { Context } from '../desk/context.js'
import { sendDueDigests } from '../desk/mail/send-digest.js'
import { interruptStale, runSounding, SOUNDING_LIMIT_MS } from '../desk/run-sounding.js'
import { rotateWhenDue } from '../desk/keyring.js'
import { purgeDeleted } from '../desk/tools/end-tool.js'
import { expire } from '../records/expiry.js'
import type { DataSource } from 'typeorm'

const SOUNDING = 'sounding'
const EXPIRY = 'expiry'
const DIGESTS = 'digests'
const DAY_MS = 24 * 3600_000
const STOP_WAIT_MS = 15_000

export interface Jobs {
  sound(soundingId: string): Promise<void>
  /** Stops taking work; what is being done is finished, or marked as interrupted after a while. */
  stop(): Promise<void>
}

/** Starts the queue's workers: soundings, and the nightly expiry of what ages. The queue lives beside the records, in its own schema. */
export async function startJobs(context: Context, database: DataSource): Promise<Jobs> {
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
  await boss.createQueue(EXPIRY, { name: EXPIRY, retryLimit: 2 })
  await boss.createQueue(DIGESTS, { name: DIGESTS, retryLimit: 0 })

  const stopping = new AbortController()
  const worker = await boss.work<{ soundingId: string }>(
    SOUNDING,
    { pollingIntervalSeconds: 1, batchSize: 4 },
    async (jobs) => {
      await Promise.all(jobs.map((job) => soundOne(context, job.data.soundingId, stopping.signal)))
    },
  )
  await boss.work(EXPIRY, { pollingIntervalSeconds: 60 }, () => expireAll(context, database))
  await boss.schedule(EXPIRY, '17 * * * *')
  await boss.work(DIGESTS, { pollingIntervalSeconds: 60 }, () => sendDueDigests(context))
  await boss.schedule(DIGESTS, '*/10 * * * *')
  await interruptStale(context)

  return {
    async sound(soundingId) {
      await boss.send(SOUNDING, { soundingId })
      boss.notifyWorker(worker)
    },
    async stop() {
      setTimeout(() => stopping.abort(new Error('The service is stopping.')), STOP_WAIT_MS - 3000).unref()
      await boss.stop({ graceful: true, wait: true, timeout: STOP_WAIT_MS })
    },
  }
}

/** Runs a started sounding to its end; what cannot be finished is marked as interrupted. Never throws. */
export async function soundOne(context: Context, soundingId: string, stopping: AbortSignal): Promise<void> {
  const signal = AbortSignal.any([stopping, AbortSignal.timeout(SOUNDING_LIMIT_MS)])
  try {
    await runSounding(context, soundingId, signal)
  } catch (error) {
    context.log.error({ err: error, soundingId }, 'a sounding could not be finished')
    const cause = stopping.aborted
      ? 'The service was stopped in the middle; run it again.'
      : 'It could not be finished; run it again.'
    await context.records.soundings
      .interrupt(soundingId, context.clock.now(), cause)
      .catch((reason: unknown) => context.log.error({ err: reason }, 'nor marked as interrupted'))
  }
}

async function expireAll(context: Context, database: DataSource): Promise<void> {
  const { settings, clock, log } = context
  const now = clock.now()
  const daysAgo = (days: number) => new Date(now.getTime() - days * DAY_MS)
  const gone = {
    nonces: await expire(database, 'nonce', now),
    sessions: await expire(database, 'session', now),
    invitations: await expire(database, 'invitation', daysAgo(1)),
    pickings: await expire(database, 'picking', daysAgo(30)),
    assignments: await context.records.assignments.purge(daysAgo(settings.undoDays)),
    wireEntries: await expire(database, 'wire_entry', daysAgo(settings.wireDays)),
    auditEntries: await expire(database, 'audit_entry', daysAgo(settings.auditDays)),
  }
  await interruptStale(context)
  const registrations = await purgeDeleted(context)
  await rotateWhenDue(context)
  log.info({ ...gone, registrations }, 'expired')
}
