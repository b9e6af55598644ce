import type { signOnOperations } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { beginSignOn } from '../../desk/sign-on/begin.js'
import { checkProvider } from '../../desk/sign-on/check.js'
import { identitiesOf, untie } from '../../desk/sign-on/identities.js'
import {
  addProvider,
  changeProvider,
  listProviders,
  removeProvider,
  showProvider,
} from '../../desk/sign-on/providers.js'
import { keep } from '../sign-on.js'
import type { Call, Handlers } from './routes.js'

/** Calls about identity providers, and whose accounts are tied to them. */
export function signOnHandlers(context: Context): Pick<Handlers, keyof typeof signOnOperations> {
  const { records } = context
  const start = async (
    purpose: 'confirm' | 'tie',
    { caller, body, request, reply }: Call<'startConfirming'> | Call<'startTying'>,
  ) => {
    const begun = await beginSignOn(context, { ...body, purpose, actor: caller.actor })
    keep(context, request, reply, begun)
    return { location: begun.location.href }
  }
  return {
    listSignOnChoices: async () => ({
      items: (await records.identities.choices()).map(({ handle, name }) => ({ handle, name })),
    }),
    startConfirming: (call) => start('confirm', call),
    startTying: (call) => start('tie', call),
    listOwnIdentities: async ({ caller }) => ({ items: await identitiesOf(context, caller.actor.id) }),
    untieOwnIdentity: ({ caller, params }) =>
      untie(context, caller.actor, caller.actor.id, params.provider) as Promise<undefined>,
    listIdentities: async ({ params }) => ({
      items: await identitiesOf(context, (await records.people.known(params.person)).id),
    }),
    untieIdentity: ({ caller, params }) =>
      untie(context, caller.actor, params.person, params.provider) as Promise<undefined>,
    listIdentityProviders: async () => ({ items: await listProviders(context) }),
    showIdentityProvider: ({ params }) => showProvider(context, params.provider),
    addIdentityProvider: ({ caller, body }) => addProvider(context, caller.actor, body),
    changeIdentityProvider: ({ caller, params, body }) => changeProvider(context, caller.actor, params.provider, body),
    removeIdentityProvider: ({ caller, params }) =>
      removeProvider(context, caller.actor, params.provider) as Promise<undefined>,
    checkIdentityProvider: ({ params }) => checkProvider(context, params.provider),
  }
}
