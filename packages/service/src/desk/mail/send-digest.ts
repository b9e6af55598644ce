import { Refusal, type MailDigest, type MailDigestChange } from '@bathyscribe/contract'
import { nextOccurrence } from '@bathyscribe/core/dates'
import { fingerprint } from '../../keys/key-file.js'
import type { DigestRow } from '../../records/digests.js'
import type { PersonRecord } from '../../records/entities/people.js'
import { requireTeaching } from '../identity/access.js'
import type { Actor, Context } from '../context.js'
import { readWatch } from '../watch/read-watch.js'
import { writeDigest, type Digest } from './write-digest.js'

const HOUR_MS = 3600_000
/** People mailed in one go; the others come at the next look. */
const MOST_AT_ONCE = 200

/** How often somebody is mailed what needs them. @throws Refusal for those whom nothing of Watch concerns */
export async function readDigest(context: Context, actor: Actor): Promise<MailDigest> {
  await requireTeaching(context.records, actor)
  const [row, person] = await Promise.all([context.records.digests.of(actor.id), context.records.people.byId(actor.id)])
  return {
    on: context.mailer !== null,
    every: row?.every ?? 'never',
    to: person?.email ?? null,
    nextAt: row?.nextAt.toISOString() ?? null,
    sentAt: row?.sentAt?.toISOString() ?? null,
    failure: row?.failure ?? null,
  }
}

/** @throws Refusal where no mail could ever go out */
export async function changeDigest(context: Context, actor: Actor, { every }: MailDigestChange): Promise<MailDigest> {
  if (every === 'never') await context.records.digests.drop(actor.id)
  else {
    await receiver(context, actor)
    await context.records.digests.set(
      actor.id,
      every,
      nextOccurrence(context.clock.now(), every, context.settings.mailHour),
    )
  }
  return readDigest(context, actor)
}

/** Mails what needs somebody at their wish, said before or not. @throws Refusal `mail.not_taken` with what the server said */
export async function sendDigestNow(context: Context, actor: Actor): Promise<MailDigest> {
  const { person, mailer } = await receiver(context, actor)
  const digest = await digestFor(context, person)
  try {
    await mailer.send({
      to: person.email!,
      subject: digest?.subject ?? 'Bathyscribe: nothing needs you',
      text: digest?.text ?? `${person.fullName}, nothing needs you.\n`,
    })
  } catch (error) {
    throw new Refusal('mail.not_taken', said(error))
  }
  const row = await context.records.digests.of(actor.id)
  if (row)
    await context.records.digests.note(actor.id, {
      nextAt: row.nextAt,
      sentAt: context.clock.now(),
      ...(digest && { fingerprint: newsOf(digest) }),
      failure: null,
    })
  return readDigest(context, actor)
}

/** Mails everybody whose time has come and who has news. Any number of processes may do so side by side. */
export async function sendDueDigests(context: Context): Promise<void> {
  if (!context.mailer) return
  const now = context.clock.now()
  const due = await context.records.digests.takeDue(now, new Date(now.getTime() + HOUR_MS), MOST_AT_ONCE)
  for (const row of due)
    try {
      await sendOne(context, row, now)
    } catch (error) {
      context.log.warn({ reason: said(error), person: row.personId }, 'a digest could not be sent')
      await context.records.digests.note(row.personId, {
        nextAt: new Date(now.getTime() + HOUR_MS),
        failure: said(error),
      })
    }
}

async function sendOne(context: Context, row: DigestRow, now: Date): Promise<void> {
  const nextAt = nextOccurrence(now, row.every, context.settings.mailHour)
  const person = await context.records.people.byId(row.personId)
  const digest = person?.email ? await digestFor(context, person) : undefined
  const news = digest && newsOf(digest)
  if (!digest || !news || row.fingerprint?.equals(news)) {
    await context.records.digests.note(row.personId, { nextAt, failure: null })
    return
  }
  await context.mailer!.send({ to: person!.email!, subject: digest.subject, text: digest.text })
  await context.records.digests.note(row.personId, { nextAt, sentAt: now, fingerprint: news, failure: null })
}

async function receiver(context: Context, actor: Actor) {
  await requireTeaching(context.records, actor)
  if (!context.mailer) throw new Refusal('mail.off')
  const person = await context.records.people.byId(actor.id)
  if (!person?.email) throw new Refusal('mail.no_address')
  return { person, mailer: context.mailer }
}

/** @returns undefined when nothing needs them, or when they teach nothing any more */
async function digestFor(context: Context, person: PersonRecord): Promise<Digest | undefined> {
  try {
    const watch = await readWatch(context, person)
    return writeDigest(watch, { fullName: person.fullName, publicUrl: context.settings.publicUrl })
  } catch (error) {
    if (error instanceof Refusal && error.code === 'access.denied') return undefined
    throw error
  }
}

function newsOf(digest: Digest): Buffer {
  return fingerprint([...digest.matters].sort().join('\n'))
}

function said(error: unknown): string {
  return (error as Error).message.slice(0, 500)
}
