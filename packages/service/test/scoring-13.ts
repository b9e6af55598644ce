import { startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { launch13, register13, startClient13, verified, type Client13 } from './harness-13.js'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/'
export const SCOPES_13 = {
  score: `${AGS}scope/score`,
  columns: `${AGS}scope/lineitem`,
  readColumns: `${AGS}scope/lineitem.readonly`,
  results: `${AGS}scope/result.readonly`,
  roster: 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly',
  outcomes: 'https://purl.imsglobal.org/spec/lti-bo/scope/basicoutcome',
} as const

export interface Answer<B> {
  status: number
  body: B
  type: string
  link: string
  location: string | null
}

/** An academy with two learners, and a tool of LTI 1.3 in the tests' own hands that may use every service. */
export interface Scoring {
  academy: TestAcademy
  client: Client13
  clientId: string
  tomas: Visitor
  aino: Visitor
  /** Subjects by user name. */
  subjects: Record<string, string>
  service: string
  make: (title: string, more?: Record<string, unknown>) => Promise<string>
  token: (...scopes: string[]) => Promise<string>
  call: <B = Record<string, unknown>>(
    method: string,
    path: string,
    body?: unknown,
    options?: { bearer?: string; type?: string },
  ) => Promise<Answer<B>>
  score: (column: string, who: string, given: number | null, more?: Record<string, unknown>) => Promise<number>
  cell: (column: string, who: string) => Promise<{ state: string; points: string | null; sent: string | null }>
}

export async function startScoring(
  registration: Record<string, unknown> = {},
  settings: Record<string, unknown> = {},
): Promise<Scoring> {
  const academy = await startAcademy(settings)
  const client = await startClient13(academy)
  const scopes = Object.values(SCOPES_13)
  const { clientId } = await register13(academy, client, { scopes, ...registration })
  for (const name of ['aino', 'bo', 'cyd']) await academy.person(name, { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  const [tomas, aino] = [await academy.signIn('tomas'), await academy.signIn('aino')]
  const make = async (title: string, more: Record<string, unknown> = {}) => {
    const body = { title, tool: 'bearing-book', points: '40', category: 'Drills', publish: true, ...more }
    return (await academy.admin.client.call('createAssignment', { params: { course: 'HYD-210' }, body })).id
  }
  const first = await make('Bearings')
  const { fields } = await launch13(aino, first, client)
  const claims = await verified(academy, fields['id_token']!, clientId!)
  const { lineitems } = claims[`${AGS}claim/endpoint`] as { lineitems: string }
  const rows = await academy.query<{ username: string; subject: string }>(`select username, subject from person`)
  const subjects = Object.fromEntries(rows.map((row) => [row.username, row.subject]))
  const service = lineitems.replace(/\/lineitems$/, '')
  const token = async (...wanted: string[]) =>
    (await client.token({ client_assertion: await client.assertion(clientId!), scope: wanted.join(' ') })).body[
      'access_token'
    ]!
  let all: string | undefined
  let tick = 0
  const call: Scoring['call'] = async (method, path, body, options = {}) => {
    const response = await fetch(path.startsWith('http') ? path : `${service}/${path}`, {
      method,
      headers: {
        ...(body !== undefined && { 'content-type': options.type ?? 'application/json' }),
        authorization: `Bearer ${options.bearer ?? (all ??= await token(...scopes))}`,
      },
      ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    })
    return {
      status: response.status,
      body: (await response.json().catch(() => null)) as never,
      type: response.headers.get('content-type') ?? '',
      link: response.headers.get('link') ?? '',
      location: response.headers.get('location'),
    }
  }
  return {
    academy,
    client,
    clientId: clientId!,
    tomas,
    aino,
    subjects,
    service,
    make,
    token,
    call,
    score: async (column, who, given, more = {}) => {
      const body = {
        userId: subjects[who],
        timestamp: new Date(Date.now() + tick++).toISOString(),
        activityProgress: 'Completed',
        gradingProgress: 'FullyGraded',
        ...(given !== null && { scoreGiven: given, scoreMaximum: 40 }),
        ...more,
      }
      return (await call('POST', `lineitems/${column}/scores`, body)).status
    },
    cell: async (column, who) =>
      (await tomas.client.call('showTrail', { params: { assignment: column, person: who } })).cell,
  }
}
