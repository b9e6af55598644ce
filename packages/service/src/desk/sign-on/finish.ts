import { Refusal } from '@bathyscribe/contract'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import { violatedKey } from '../../records/database.js'
import { act, type Actor, type Context } from '../context.js'
import type { OpenedSession } from '../identity/open-session.js'
import { openProvider } from './begin.js'
import { signInAs } from './sign-in-as.js'
import { openBegun, type Begun } from './sign-on-state.js'
import { requireJustNow, takeAnswer, type Verified } from './verified-claims.js'

/** A browser that comes back from a provider. */
export interface CameBack {
  /** Short name, as in the address. */
  provider: string
  answer: URL
  /** What the browser kept since this was begun. */
  kept: string | undefined
  /** Who is signed in in it already. */
  actor: Actor | undefined
  userAgent: string
  address: string
}

/** The page to go on to, and the session where one was opened. */
export interface SignedOn {
  next: string
  opened: OpenedSession | undefined
}

/** Two who come for the first time at once meet at a unique key; the second then finds what the first one made. */
const MOST_TRIES = 3

/** Ends what was begun: signs in, confirms, or ties. A refusal is noted in the audit, so that it can be told why somebody cannot sign in. @throws Refusal */
export async function finishSignOn(context: Context, came: CameBack): Promise<SignedOn> {
  const provider = await openProvider(context, came.provider)
  const seen: { verified?: Verified } = {}
  try {
    const begun = openBegun(context, came.kept, came.answer.searchParams.get('state'))
    if (begun?.providerId !== provider.id) throw new Refusal('sign_on.begun_elsewhere')
    const verified = await takeAnswer(context, { provider, begun, answer: came.answer })
    seen.verified = verified
    const opened = await fulfil(context, { provider, begun, verified, came })
    return { next: begun.next, opened }
  } catch (error) {
    if (error instanceof Refusal) await noteRefused(context, { provider, came, error, verified: seen.verified })
    throw error
  }
}

interface Proven {
  provider: IdentityProviderRecord
  begun: Begun
  verified: Verified
  came: CameBack
}

async function fulfil(context: Context, proven: Proven): Promise<OpenedSession | undefined> {
  if (proven.begun.purpose === 'confirm') return confirm(context, proven)
  if (proven.begun.purpose === 'tie') return tie(context, proven)
  for (let tries = 1; ; tries++)
    try {
      return await signInAs(context, proven)
    } catch (error) {
      if (violatedKey(error) === undefined || tries === MOST_TRIES) throw error
    }
}

/** Whoever began it, in the very session. @throws Refusal */
function whoBegan({ came, begun }: Proven): Actor {
  const { actor } = came
  if (actor?.via !== 'session' || actor.viaId !== begun.sessionId) throw new Refusal('sign_on.begun_elsewhere')
  return actor
}

async function confirm(context: Context, proven: Proven): Promise<undefined> {
  const { provider, begun, verified } = proven
  const doer = whoBegan(proven)
  const identity = await context.records.identities.identity(provider.id, verified.subject)
  if (identity?.personId !== doer.id) throw new Refusal('sign_on.other_person')
  requireJustNow(begun, verified)
  const confirming = { doer, action: 'confirm by sign-on', subject: `person ${doer.username}` }
  await act(
    context,
    confirming,
    ({ signIns }, at) => signIns.confirmSession(doer.viaId, at),
    () => ({ after: { provider: provider.handle, address: proven.came.address } }),
  )
}

async function tie(context: Context, proven: Proven): Promise<undefined> {
  const { provider, begun, verified } = proven
  const doer = whoBegan(proven)
  requireJustNow(begun, verified)
  const [providerId, { subject }] = [provider.id, verified]
  const tying = { doer, action: 'tie account', subject: `person ${doer.username}` }
  await act(
    context,
    tying,
    async ({ identities }, at) => {
      const there = await identities.identity(providerId, subject)
      if (there && there.personId !== doer.id) throw new Refusal('sign_on.tied_already')
      const own = await identities.identityOf(providerId, doer.id)
      if (own && own.subject !== subject) throw new Refusal('sign_on.other_subject')
      if (own) return
      await identities.tie({ providerId, subject, personId: doer.id, tiedBy: 'person', tiedAt: at, lastAt: at, administratorSince: null }) // oxfmt-ignore
    },
    () => ({ after: { provider: provider.handle, subject } }),
  ).catch((error: unknown) => {
    // Somebody else tied it in the same moment.
    throw violatedKey(error) === undefined ? error : new Refusal('sign_on.tied_already')
  })
  context.changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: doer.id })
}

async function noteRefused(
  { records, clock }: Context,
  { provider, came, error, verified }: { provider: IdentityProviderRecord; came: CameBack; error: Refusal; verified: Verified | undefined }, // oxfmt-ignore
): Promise<void> {
  await records.audit.note({
    at: clock.now(),
    personId: came.actor?.id ?? null,
    via: 'sign-on',
    action: 'sign-on refused',
    subject: `identity provider ${provider.handle}`,
    after: {
      code: error.code,
      ...(error.detail !== undefined && { detail: error.detail.slice(0, 300) }),
      ...(verified && { subject: verified.subject }),
      address: came.address,
    },
  })
}
