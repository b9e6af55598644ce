import { Refusal, type SessionInfo } from '@bathyscribe/contract'
import { teaches } from '@bathyscribe/core/identity'
import type { FastifyReply } from 'fastify'
import { personView, tokenView } from './views/people.js'
import { inText } from './views/moments.js'
import type { Actor, Context } from '../../desk/context.js'
import { makeSignInLinks, readSignInLink, useSignInLink } from '../../desk/identity/sign-in-links.js'
import { setUp } from '../../desk/identity/set-up.js'
import { changePassword, confirmSession, endSession, signIn, signOut } from '../../desk/identity/sign-in.js'
import { createToken, revokeToken } from '../../desk/identity/api-tokens.js'
import { fingerprint } from '../../keys/key-file.js'
import { hostCookieSet, sessionCookie } from '../caller.js'
import type { Handlers } from './routes.js'

type SessionCalls =
  | 'setupState' | 'setUp' | 'signIn' | 'whoAmI' | 'signOut' | 'listSessions' | 'revokeSession' | 'confirmSession' | 'changePassword'
  | 'makeSignInLinks' | 'readSignInLink' | 'useSignInLink'
  | 'listTokens' | 'createToken' | 'revokeToken' // oxfmt-ignore

export function sessionHandlers(context: Context): Pick<Handlers, SessionCalls> {
  const { records, settings } = context
  const cookie = sessionCookie(settings)
  const cookieSet = hostCookieSet(settings)

  async function describe(actor: Actor, reply: FastifyReply): Promise<SessionInfo> {
    const person = await records.people.byId(actor.id)
    if (!person) throw new Refusal('session.required')
    const roles = await records.people.rolesOf(actor.id)
    return {
      person: personView(person),
      csrfToken: actor.via === 'session' ? reply.generateCsrf({ userInfo: actor.viaId }) : null,
      scopes: [...actor.scopes],
      teaches: roles.some(({ role }) => teaches(role)),
      signedInBy: actor.via === 'session' ? await records.identities.ofSession(actor.viaId) : null,
      platform: {
        name: settings.platformName,
        version: context.version,
        publicUrl: settings.publicUrl,
        soundOnPublish: settings.soundOnPublish,
      },
    }
  }

  return {
    setupState: async () => ({ needed: !(await records.people.hasAdministrator()) }),
    setUp: async ({ body }) => personView(await setUp(context, body)),
    signIn: async ({ body, request, reply }) => {
      const { token, expiresAt } = await signIn(context, {
        ...body,
        userAgent: request.headers['user-agent'] ?? '',
        address: request.ip,
      })
      const actor = await context.statements.findSession(fingerprint(token))
      if (!actor) throw new Refusal('session.required')
      void reply.setCookie(cookie, token, { ...cookieSet, expires: expiresAt })
      return describe(actor, reply)
    },
    whoAmI: ({ caller, reply }) => describe(caller.actor, reply),
    signOut: async ({ caller, reply }) => {
      const leaveAt = await signOut(context, caller.actor)
      void reply.clearCookie(cookie, cookieSet).header('clear-site-data', '"cache"')
      return { leaveAt }
    },
    listSessions: async ({ caller }) => ({ items: await sessionsOf(context, caller.actor) }),
    revokeSession: async ({ caller, params }) => {
      await endSession(context, caller.actor, params.id)
      return undefined
    },
    confirmSession: async ({ caller, body, request }) => {
      await confirmSession(context, caller.actor, { ...body, address: request.ip })
      return undefined
    },
    changePassword: async ({ caller, body, request }) => {
      await changePassword(context, caller.actor, { ...body, address: request.ip })
      return undefined
    },
    makeSignInLinks: ({ caller, body }) => makeSignInLinks(context, caller.actor, body),
    readSignInLink: async ({ body }) => {
      const { person, expiresAt } = await readSignInLink(context, body.code)
      return { username: person.username, fullName: person.fullName, expiresAt: expiresAt.toISOString() }
    },
    useSignInLink: async ({ body, request }) => {
      await useSignInLink(context, { ...body, address: request.ip })
      return undefined
    },
    listTokens: async ({ caller }) => ({ items: (await records.signIns.tokensOf(caller.actor.id)).map(tokenView) }),
    createToken: async ({ caller, body }) => {
      const { record, token } = await createToken(context, caller.actor, body)
      return { ...tokenView(record), token }
    },
    revokeToken: async ({ caller, params }) => {
      await revokeToken(context, caller.actor, params.id)
      return undefined
    },
  }
}

async function sessionsOf({ records, clock, settings }: Context, actor: Actor) {
  const now = clock.now()
  const idleSince = new Date(now.getTime() - settings.sessionIdleMinutes * 60_000)
  const sessions = await records.signIns.sessionsOf(actor.id, now, idleSince)
  const names = await records.identities.providerNames()
  return sessions.map(({ id, createdAt, lastSeenAt, expiresAt, userAgent, providerId }) => ({
    by: providerId === null ? null : (names.get(providerId) ?? null),
    ...inText({ id, createdAt, lastSeenAt, expiresAt, userAgent }),
    current: id === actor.viaId,
  }))
}
