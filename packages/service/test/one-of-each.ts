import { createHash } from 'node:crypto'
import { operations, type OperationName } from '@bathyscribe/contract'
import { publishDrill, registerKnotwork, sendFile, type TestAcademy, type Visitor } from './harness.js'
import { register13, startClient13 } from './harness-13.js'
import { SCOPES_13 } from './scoring-13.js'
import { runSounding } from './soundings.js'

const METHODS = ['GET', 'POST', 'PATCH', 'PUT', 'DELETE']

/** Calls in an order in which each still finds what it is about: what takes things away comes late, `ends`, which take others along, last. */
export function endsLast(names: readonly OperationName[], ends: readonly OperationName[]): OperationName[] {
  const rank = (name: OperationName) =>
    METHODS.indexOf(operations[name].method) + (ends.includes(name) ? METHODS.length : 0)
  return [...names].sort((a, b) => rank(a) - rank(b))
}

/** Makes a call at an address, with whatever body. @param token that a visitor's changes bring along */
export function sendCall(
  visitor: Visitor,
  token: string,
  name: OperationName,
  sent: { address: string; body: unknown },
): Promise<Response> {
  const { method, body } = operations[name]
  return visitor.send(sent.address, {
    method,
    headers: { 'x-csrf-token': token, ...(body && { 'content-type': 'application/json' }) },
    ...(body && { body: JSON.stringify(sent.body) }),
  })
}

const IN_COURSE = { course: 'HYD-210' }

/** What the names in addresses stand for: real things of HYD-210 and of the institution. */
export interface OneOfEach {
  /** The address of a call, with `course` in the place of HYD-210 when given; and with the query without which it is only half a question. */
  pathOf: (name: OperationName, course?: string) => string
}

/** One thing of each kind that a call can name, made by the administrator and by an instructor of HYD-210. The person `learner` has to be in it. */
export async function makeOneOfEach(academy: TestAcademy, instructor: Visitor): Promise<OneOfEach> {
  const { call } = academy.admin.client
  const teach = instructor.client.call
  await registerKnotwork(academy, { features: ['scores', 'picker'], pickerUrl: `${academy.knotwork}/shelf` })
  for (const name of ['Own tool', 'Old tool', 'New tool']) {
    const slug = name.toLowerCase().replace(' ', '-')
    await call('registerTool', {
      body: {
        name,
        consumerKey: slug,
        sharedSecret: `${slug}-secret`,
        launchUrl: `https://${slug}.example.org/launch`,
        ...(slug === 'own-tool' && IN_COURSE),
      },
    })
  }
  const { id: assignment } = await publishDrill(academy, 'knotwork-drills')
  await publishDrill(academy, 'old-tool', { title: 'Moved' })
  await call('replaceTool', { params: { tool: 'old-tool' }, body: { with: 'new-tool' } })
  const moved = await call('moveAddresses', {
    params: { tool: 'new-tool' },
    body: { from: 'https://new-tool.example.org/', to: 'https://moved.example.org/' },
  })
  const { keys } = await call('rotateSecret', { params: { tool: 'own-tool' }, body: {} })
  const { token, id: tokenId } = await call('createToken', {
    body: { name: 'Files', scopes: ['read', 'teach'], expiresInDays: 1 },
  })
  const { id: file } = (await (
    await sendFile(academy, { token, content: 'Depths in metres', name: 'depths.txt' })
  ).json()) as { id: string }
  const unit = await teach('addUnit', { params: IN_COURSE, body: { title: 'Week 1', published: true } })
  const item = await teach('addUnitItem', {
    params: IN_COURSE,
    body: { kind: 'tool_link', unit: unit.id, title: 'Chart', tool: 'knotwork-drills', published: true },
  })
  const set = await teach('addGroupSet', {
    params: IN_COURSE,
    body: { name: 'Watches', table: 'group,person\nRed,learner' },
  })
  const sounding = await runSounding(academy, assignment)
  const sweep = await teach('startSweep', { body: { assignments: [assignment] } })
  const schedule = await teach('createSweepSchedule', { body: { ...IN_COURSE, every: 'week' } })
  await teach('setExpectation', { params: { assignment }, body: { scoreFrom: '0.5' } })
  await teach('writeInCase', {
    params: { assignment, person: 'learner' },
    body: { to: 'learner', by: 'page', subject: 'Chart', text: 'Open it.' },
  })
  const learner = await academy.signIn('learner')
  const { id: provider } = await call('addIdentityProvider', {
    body: {
      handle: 'skerrow',
      name: 'Skerrow',
      issuer: academy.knotwork,
      clientId: 'c',
      clientSecret: 's',
      enabled: false,
    },
  })
  await academy.query(
    `insert into identity (provider_id, subject, person_id, tied_by, tied_at, last_at) select $1, id, id, 'match', now(), now() from person`,
    [provider],
  )
  const ids: Record<string, string> = {
    '/api/notes': (await learner.client.call('listNotes', {})).items[0]!.id,
    '/api/sessions': (await teach('listSessions', {})).items[0]!.id,
    '/api/tokens': tokenId,
    '/api/tools/invitations': (await teach('inviteTool', { body: { address: `${academy.knotwork}/register`, ...IN_COURSE } })).id, // oxfmt-ignore
    '/api/tools/:tool/replacements': (await call('listReplacements', { params: { tool: 'old-tool' } })).items[0]!.id,
    '/api/tools/:tool/address-moves': moved.id,
    '/api/tools/:tool/secrets': keys.secrets.find((one) => one.role === 'previous')!.id,
    '/api/soundings': sounding.id,
    '/api/sweeps': sweep.id,
    '/api/sweep-schedules': schedule.id,
    '/api/connections': await connect(academy, instructor),
  }
  const things: Record<string, string> = {
    ...IN_COURSE,
    assignment,
    tool: 'own-tool',
    courseTool: 'own-tool',
    person: 'learner',
    category: (await call('listCategories', { params: IN_COURSE })).items[0]!.id,
    entry: (await call('listWire', {})).items[0]!.id,
    code: 'other_scheme',
    menuEntry: (await call('addMenuEntry', { params: IN_COURSE, body: { tool: 'knotwork-drills' } })).id,
    unit: unit.id,
    unitItem: item.id,
    provider,
    groupSet: set.id,
    group: set.groups[0]!.id,
    file,
    picking: (await teach('openPicker', { params: IN_COURSE, body: { tool: 'knotwork-drills' } })).id,
  }
  return {
    pathOf(name, course = 'HYD-210') {
      const { path } = operations[name]
      const query = name === 'showToolPlaces' || name === 'previewIdentity' ? '?course=HYD-210' : ''
      const filled = path.replace(/:(\w+)/g, (_, key: string) => {
        const thing = key === 'id' ? ids[path.slice(0, path.indexOf('/:id'))] : things[key]
        if (thing === undefined) throw new Error(`There is no ${key} for ${path}.`)
        return encodeURIComponent(key === 'course' ? course : thing)
      })
      return `${toolOf(filled, path)}${query}`
    },
  }
}

/** Replacements and moves are named below the tools that they were made from. */
const toolOf = (filled: string, path: string) =>
  path.includes('/replacements/:id')
    ? filled.replace('own-tool', 'old-tool')
    : path.includes('/address-moves/:id')
      ? filled.replace('own-tool', 'new-tool')
      : filled

/** What the instructor lets a tool do. @returns the connection's identifier */
async function connect(academy: TestAcademy, instructor: Visitor): Promise<string> {
  const client = await startClient13(academy)
  const { clientId, slug } = await register13(academy, client, {
    name: 'Tally',
    scopes: [SCOPES_13.roster],
    redirectUris: [`${client.origin}/launch`],
  })
  await instructor.client.call('connectTool', {
    body: {
      clientId: clientId!,
      redirectUri: `${client.origin}/launch`,
      scope: SCOPES_13.roster,
      state: 'state',
      codeChallenge: createHash('sha256').update('verifier').digest('base64url'),
      scopes: [SCOPES_13.roster],
      courses: [(await instructor.client.call('showCourse', { params: IN_COURSE })).id],
    },
  })
  const { items } = await instructor.client.call('listConnections', {})
  const made = items.find((one) => one.tool.slug === slug)
  if (!made) throw new Error('The connection is not listed.')
  return made.id
}
