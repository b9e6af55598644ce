import { z } from 'zod'
import * as signOn from '../resources/sign-on.js'
import { administrator, administratorFresh, anyone, personFresh, personHere } from './access.js'
import { define } from './define.js'

const provider = z.object({ provider: z.string().max(40).describe('handle or identifier') })
const ofPerson = z.object({ person: z.string().max(100) })

/** Calls about signing in with accounts of an identity provider (OpenID Connect). */
export const signOnOperations = {
  listSignOnChoices: define('session', 'GET /api/sign-on', 'Where one can sign in, beside user name and password', {
    touchedBy: ['people'],
    access: anyone,
    answer: z.object({ items: z.array(signOn.SignOnChoice) }),
  }),
  startConfirming: define(
    'session',
    'POST /api/session/sign-on',
    'Begins signing in at the provider once more, in place of the password',
    { access: personHere, body: signOn.SignOnStart, answer: signOn.SignOnStarted },
  ),
  listOwnIdentities: define('session', 'GET /api/identities', 'Lists the accounts that yours is tied to', {
    touchedBy: ['people'],
    access: personHere,
    answer: z.object({ items: z.array(signOn.Identity) }),
  }),
  startTying: define('session', 'POST /api/identities', 'Begins to tie your account to one at an identity provider', {
    access: personFresh,
    body: signOn.SignOnStart,
    answer: signOn.SignOnStarted,
  }),
  untieOwnIdentity: define('session', 'DELETE /api/identities/:provider', 'Unties your account from a provider', {
    access: personFresh,
    params: provider,
  }),

  listIdentities: define(
    'people',
    'GET /api/people/:person/identities',
    'Lists the accounts that a person’s is tied to',
    {
      touchedBy: ['people'],
      access: { ...administrator, scope: 'read' },
      params: ofPerson,
      answer: z.object({ items: z.array(signOn.Identity) }),
    },
  ),
  untieIdentity: define(
    'people',
    'DELETE /api/people/:person/identities/:provider',
    'Unties a person’s account from a provider; sessions by it end',
    { access: administratorFresh, params: ofPerson.extend(provider.shape) },
  ),

  listIdentityProviders: define('sign-on', 'GET /api/identity-providers', 'Lists identity providers', {
    touchedBy: ['people'],
    access: { ...administrator, scope: 'read' },
    answer: z.object({ items: z.array(signOn.IdentityProvider) }),
  }),
  showIdentityProvider: define('sign-on', 'GET /api/identity-providers/:provider', 'Shows an identity provider', {
    touchedBy: ['people'],
    access: { ...administrator, scope: 'read' },
    params: provider,
    answer: signOn.IdentityProvider,
  }),
  addIdentityProvider: define(
    'sign-on',
    'POST /api/identity-providers',
    'Adds an identity provider, once its description was read',
    { access: administratorFresh, status: 201, body: signOn.NewIdentityProvider, answer: signOn.IdentityProvider },
  ),
  changeIdentityProvider: define(
    'sign-on',
    'PATCH /api/identity-providers/:provider',
    'Changes an identity provider; switched off, it ends the sessions that were begun by it',
    {
      access: administratorFresh,
      params: provider,
      body: signOn.IdentityProviderChange,
      answer: signOn.IdentityProvider,
    },
  ),
  removeIdentityProvider: define(
    'sign-on',
    'DELETE /api/identity-providers/:provider',
    'Removes an identity provider; accounts stay, untied, and sessions by it end',
    { access: administratorFresh, params: provider },
  ),
  checkIdentityProvider: define(
    'sign-on',
    'POST /api/identity-providers/:provider/check',
    'Asks the provider for its description and keys, and whether it knows our client',
    { access: administrator, perMinute: 20, params: provider, answer: signOn.SignOnChecked },
  ),
} as const
