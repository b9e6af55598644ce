import { Refusal, type SignInLinks, type SignInLinksMade } from '@bathyscribe/contract'
import type { z } from 'zod'
import { fingerprint } from '../../keys/key-file.js'
import { SEALED_FOR } from '../../records/key-mark.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { LinkToMail } from '../../records/sign-in-links.js'
import { by, type Actor, type Context } from '../context.js'
import { mailWaiting } from '../mail/mail-waiting.js'
import { personRef } from './person-ref.js'
import { hashPassword } from './guarded-password.js'
import { requireStrong } from './password-strength.js'

const DAY_MS = 24 * 3600_000
/** Links made in one go. */
const MOST_LINKS = 5000

/**
 * Makes links by which people set a password of their own: for those who are named, those of a course, or everybody who has none. Nobody loses a password by it.
 * With `mail` they are sent; who has no address gets a link to be handed over.
 * @throws Refusal
 */
export async function makeSignInLinks(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof SignInLinks>,
): Promise<SignInLinksMade> {
  const { records, clock, ids, keys, settings } = context
  if (wanted.mail && !context.mailer) throw new Refusal('mail.off')
  const courseId = wanted.course === undefined ? undefined : (await records.courses.byRef(wanted.course)).id
  const found = await records.signInLinks.people({ refs: wanted.people, courseId, most: MOST_LINKS + 1 })
  const strange = wanted.people?.find(
    (ref) => !found.some((one) => one.id === ref || one.username === ref.toLowerCase()),
  )
  if (strange !== undefined) throw new Refusal('person.not_found', strange)

  const isFor = (one: (typeof found)[number]) => wanted.again || !one.hasPassword
  const now = clock.now()
  const expiresAt = new Date(now.getTime() + wanted.days * DAY_MS)
  const made = found
    .filter(isFor)
    .slice(0, MOST_LINKS)
    .map((person) => {
      const code = ids.secret()
      const mailed = wanted.mail && person.email !== null
      return { person, code, mailed }
    })
  await records.transaction(async (inside) => {
    await inside.signInLinks.put(
      made.map(({ person, code, mailed }) => ({
        personId: person.id,
        codeHash: fingerprint(code),
        codeSealed: mailed ? keys.seal(code, SEALED_FOR.signInLink) : null,
        madeAt: now,
        expiresAt,
      })),
    )
    await inside.audit.add({
      at: now,
      ...by(actor),
      action: 'make sign-in links',
      subject: made.length === 1 ? `person ${made[0]!.person.username}` : `${made.length} people`,
      ...(courseId !== undefined && { courseId }),
      after: {
        people: made.slice(0, 200).map(({ person }) => person.username),
        mailed: made.filter(({ mailed }) => mailed).length,
        days: wanted.days,
      },
    })
  })
  return {
    items: made.map(({ person, code, mailed }) => ({
      person: personRef(person),
      email: person.email,
      link: mailed ? null : linkOf(settings.publicUrl, code),
    })),
    expiresAt: expiresAt.toISOString(),
    passedOver: found.filter((one) => !isFor(one)).map(personRef),
    more: found.length > MOST_LINKS,
  }
}

/** After `#`, so that it stands in no log of a proxy and is sent to nobody as a referrer. */
const linkOf = (publicUrl: string, code: string) => `${publicUrl}/welcome#${code}`

/** Whose link it is. @throws Refusal `person.link_over` */
export async function readSignInLink(
  context: Context,
  code: string,
): Promise<{ person: PersonRecord; expiresAt: Date }> {
  const holder = await context.records.signInLinks.holder(fingerprint(code), context.clock.now())
  const person = holder && (await context.records.people.byId(holder.personId))
  if (!person || person.closedAt) throw new Refusal('person.link_over')
  return { person, expiresAt: holder.expiresAt }
}

/** Sets the password of whose link it is and uses the link up. Whoever was signed in by an older one is no more. @throws Refusal */
export async function useSignInLink(
  context: Context,
  given: { code: string; password: string; address: string },
): Promise<void> {
  // Looked at first: a password is dear to hash.
  const { person } = await readSignInLink(context, given.code)
  await requireStrong(given.password, [person.username, person.fullName, person.email])
  const passwordHash = await hashPassword(given.password)
  const now = context.clock.now()
  await context.records.transaction(async (records) => {
    if (!(await records.signInLinks.use(fingerprint(given.code), now))) throw new Refusal('person.link_over')
    await records.people.update(person.id, { passwordHash })
    await records.signIns.endSessions(person.id)
    await records.signIns.revokeTokens(person.id, now)
    await records.connections.revokeAll(person.id, 'person', now)
    await records.audit.add({
      at: now,
      personId: person.id,
      via: 'sign-in link',
      action: person.passwordHash === null ? 'set first password' : 'set password by link',
      subject: `person ${person.username}`,
      after: { address: given.address },
    })
  })
}

/** Mails the links that wait. */
export function mailSignInLinks(context: Context): Promise<void> {
  const { signInLinks } = context.records
  return mailWaiting<LinkToMail>(context, {
    what: 'a sign-in link',
    about: ({ personId }) => ({ person: personId }),
    take: (now, until, most) => signInLinks.takeToMail(now, until, most),
    write: (link) => (link.email === null ? null : { to: link.email, ...written(context, link) }),
    note: ({ personId, codeSealed }, { failure, tryAt }) =>
      signInLinks.noteMail(personId, codeSealed, { failure, tryAt }),
  })
}

function written({ settings, keys }: Context, link: LinkToMail): { subject: string; text: string } {
  const name = link.fullName.replace(/\s+/g, ' ')
  return {
    subject: `${settings.platformName.replace(/\s+/g, ' ')}: set your password`,
    text: [
      `${name}, there is an account for you at ${settings.publicUrl}. Your user name is ${link.username}.`,
      `Set a password of your own here, until ${link.expiresAt.toISOString().slice(0, 16).replace('T', ' ')} UTC:`,
      `  ${linkOf(settings.publicUrl, keys.unseal(link.codeSealed, SEALED_FOR.signInLink))}`,
      'The link works once. If you did not expect it, you need do nothing.',
      '',
    ].join('\n\n'),
  }
}
