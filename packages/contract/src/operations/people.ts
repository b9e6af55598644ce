import { z } from 'zod'
import { Id, page, PageQuery } from '../resources/common.js'
import * as people from '../resources/people.js'
import { administrator, administratorFresh, anyone, person, personFresh, personHere } from './access.js'
import { define } from './define.js'

const byId = z.object({ id: Id })
const search = z.string().max(100).optional()

/** Calls about sessions, people and what they did. */
export const peopleOperations = {
  setupState: define('session', 'GET /api/setup', 'Says whether the first administrator is still to be made', {
    access: anyone,
    answer: people.SetupState,
  }),
  setUp: define('session', 'POST /api/setup', 'Makes the first administrator; the code works once', {
    access: anyone,
    perMinute: 10,
    status: 201,
    body: people.Setup,
    answer: people.Person,
  }),
  signIn: define('session', 'POST /api/session', 'Signs in with user name and password', {
    access: anyone,
    body: people.SignIn,
    answer: people.SessionInfo,
  }),
  whoAmI: define('session', 'GET /api/session', 'Who is signed in, with which scopes', {
    access: person,
    answer: people.SessionInfo,
  }),
  signOut: define('session', 'DELETE /api/session', 'Signs out', { access: person, answer: people.SignedOut }),
  listSessions: define('session', 'GET /api/sessions', 'Lists your sessions', {
    access: personHere,
    answer: z.object({ items: z.array(people.Session) }),
  }),
  revokeSession: define('session', 'DELETE /api/sessions/:id', 'Ends one of your sessions', {
    access: personHere,
    params: byId,
  }),
  confirmSession: define(
    'session',
    'POST /api/session/confirm',
    'Gives the password once more, for calls that hand out secrets, ways in or rights',
    { access: personHere, body: people.Confirmation },
  ),
  changePassword: define('session', 'PUT /api/session/password', 'Changes your password; your other sessions end', {
    access: personHere,
    body: people.PasswordChange,
  }),
  listTokens: define('session', 'GET /api/tokens', 'Lists your API tokens', {
    access: personHere,
    answer: z.object({ items: z.array(people.ApiToken) }),
  }),
  createToken: define('session', 'POST /api/tokens', 'Makes an API token; it is shown this once', {
    access: personFresh,
    status: 201,
    body: people.NewApiToken,
    answer: people.CreatedApiToken,
  }),
  revokeToken: define('session', 'DELETE /api/tokens/:id', 'Revokes one of your API tokens', {
    access: personHere,
    params: byId,
  }),

  makeSignInLinks: define(
    'people',
    'POST /api/sign-in-links',
    'Makes links by which people set a password of their own; each is shown this once, or mailed',
    { access: administratorFresh, status: 201, body: people.SignInLinks, answer: people.SignInLinksMade },
  ),
  readSignInLink: define('session', 'POST /api/sign-in-links/read', 'Says whose link it is', {
    access: anyone,
    body: people.SignInLinkQuestion,
    answer: people.SignInLinkHolder,
  }),
  useSignInLink: define('session', 'POST /api/sign-in-links/use', 'Sets a password by a link, which is used up', {
    access: anyone,
    body: people.SignInLinkUse,
  }),

  listPeople: define('people', 'GET /api/people', 'Lists people by name', {
    touchedBy: ['people'],
    access: { ...administrator, scope: 'read' },
    query: PageQuery.extend({ search, only: z.enum(people.PEOPLE_PARTS).optional() }),
    answer: page(people.Person),
  }),
  createPerson: define('people', 'POST /api/people', 'Makes a person', {
    access: administratorFresh,
    status: 201,
    body: people.NewPerson,
    answer: people.Person,
  }),
  listDoubles: define('people', 'GET /api/people/doubles', 'Lists accounts that several people seem to share', {
    access: { ...administrator, scope: 'read' },
    perMinute: 10,
    answer: people.Doubles,
  }),
  partPerson: define(
    'people',
    'POST /api/people/:person/part',
    'Takes one of the people out of an account that several share',
    {
      access: administratorFresh,
      params: z.object({ person: z.string().max(100) }),
      body: people.PersonPart,
      answer: people.PersonParted,
    },
  ),
  showPerson: define('people', 'GET /api/people/:person', 'Shows a person by identifier or user name', {
    touchedBy: ['people'],
    access: { ...administrator, scope: 'read' },
    params: z.object({ person: z.string().max(100) }),
    answer: people.Person,
  }),
  showPersonPlaces: define(
    'people',
    'GET /api/people/:person/places',
    'Says in which courses a person is, and which tools have met them',
    {
      touchedBy: ['people', 'launch'],
      access: { ...administrator, scope: 'read' },
      params: z.object({ person: z.string().max(100) }),
      answer: people.PersonPlaces,
    },
  ),
  changePerson: define(
    'people',
    'PATCH /api/people/:person',
    'Changes a person; closing an account ends its sessions and tokens',
    {
      access: administratorFresh,
      params: z.object({ person: z.string().max(100) }),
      body: people.PersonChange,
      answer: people.Person,
    },
  ),
  showPersonData: define('people', 'GET /api/people/:person/data', 'Hands out all that is kept of a person', {
    access: administratorFresh,
    perMinute: 10,
    params: z.object({ person: z.string().max(100) }),
    answer: people.PersonData,
    bulky: true,
  }),
  removePerson: define(
    'people',
    'POST /api/people/:person/remove',
    'Removes for good who a person was; results stay, of nobody who is known',
    {
      access: administratorFresh,
      params: z.object({ person: z.string().max(100) }),
      body: people.PersonRemoval,
      answer: people.PersonRemoved,
    },
  ),
  listAudit: define('people', 'GET /api/audit', 'Lists changes, newest first', {
    touchedBy: ['people', 'tool', 'assignment', 'outline', 'menu', 'groups', 'files', 'office', 'sweep'],
    access: { ...administrator, scope: 'read' },
    perMinute: 120,
    query: PageQuery.extend(people.AuditQuery.shape),
    answer: page(people.AuditEntry),
  }),
  reportAudit: define('people', 'GET /api/audit/report', 'The newest 10,000 changes that are looked for, as CSV', {
    access: { ...administrator, scope: 'read' },
    perMinute: 10,
    query: people.AuditQuery,
    answer: people.AuditReport,
    bulky: true,
  }),
} as const
