import { Refusal } from '@bathyscribe/contract'
import { describe, expect, it } from 'vitest'
import * as change from '../src/inbound/messages/registration-change.js'
import * as registration from '../src/inbound/messages/registration.js'
import { fingerprint } from '../src/keys/key-file.js'
import { NOW, of, pretend, said } from './pretend.js'

const TOOL_CLAIM = 'https://purl.imsglobal.org/spec/lti-tool-configuration'
const SCORE = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'
const description = (more: object = {}) => ({
  ...{ application_type: 'web', response_types: ['id_token'], grant_types: ['implicit', 'client_credentials'] },
  ...{ initiate_login_uri: 'https://t.example/login', redirect_uris: ['https://t.example/launch'], scope: SCORE },
  ...{ client_name: 'Tide Drills', jwks_uri: 'https://t.example/keys', token_endpoint_auth_method: 'private_key_jwt' },
  [TOOL_CLAIM]: { domain: 't.example', target_link_uri: 'https://t.example/launch', claims: ['name'], messages: [{ type: 'LtiResourceLinkRequest' }] }, // oxfmt-ignore
  ...more,
})
const whole = (sent: object = description()) =>
  (registration.metadataWhole(pretend().context, of({ sent })) as { metadata: object }).metadata

/** A context whose transaction works on the same pretended records, and what was published. */
function register(found: Record<string, unknown> = {}) {
  const all = pretend({
    ...{ useInvitation: invitation(), similar: [], slugsLike: [], mainDeployment: { id: 'd-1' }, ...found },
  })
  const published: unknown[] = []
  const answers = (all.context as unknown as { statements: object }).statements
  const records = {
    ...{ tools: answers, secrets: answers, menus: answers, audit: answers },
    transaction: (work: (inside: object) => unknown) => Promise.resolve(work(records)),
  }
  Object.assign(all.context, { records, changes: { publish: (one: unknown) => void published.push(one) } })
  const call = (sent: object = description()) =>
    registration.registered(all.context, of({ token: 'tk', metadata: whole(sent) }))
  const given = (name: string) => all.asked.filter(([one]) => one === name).map(([, ...rest]) => rest)
  return { ...all, call, given, published }
}
const invitation = (more: object = {}) => ({ id: 'i1', name: null, courseId: null, personId: 'p1', secondReason: null, ...more }) // oxfmt-ignore
type Done = Exclude<Awaited<ReturnType<typeof registration.registered>>, Refusal>

describe('a tool that describes itself', () => {
  it('is registered as it says, and waits', async () => {
    const at = register()
    const taken = (await at.call()) as Done
    const [tool] = at.given('insert')[0] as [Record<string, unknown>]
    expect(tool).toMatchObject({
      ...{ name: 'Tide Drills', slug: 'tide-drills', likeness: 'tidedrills', state: 'waiting', version: '1.3' },
      ...{ initiationUrl: 'https://t.example/login', redirectUris: ['https://t.example/launch'], clientId: 'id-1' },
      ...{ launchUrl: 'https://t.example/launch', keysetUrl: 'https://t.example/keys', courseId: null },
      managementHash: fingerprint('secret-1'),
    })
    expect((tool['placements'] as { place: string }[]).map((one) => one.place)).toEqual(['assignment'])
    expect(taken.statement).toBe('“Tide Drills” described itself; it is waiting.')
    expect(taken.kept).toEqual({ registrationId: 'id-1', courseId: null })
    expect(at.given('useInvitation')).toEqual([[fingerprint('tk'), NOW]])
    expect(at.given('tieInvitation')).toEqual([['i1', 'id-1']])
    expect(at.given('similar')).toEqual([[{ initiationUrl: 'https://t.example/login' }]])
    expect(at.names()).not.toContain('addTool')
  })
  it('is told its client ID, what it asked for, and once by what it comes again', async () => {
    const at = register()
    const answer = (await ((await at.call()) as Done).answer('1')) as registration.RegistrationAnswer
    expect(answer.status).toBe(201)
    expect(answer.body).toMatchObject({
      ...{ client_id: 'id-1', client_name: 'Tide Drills', scope: SCORE, registration_access_token: 'secret-1' },
      registration_client_uri: 'https://us.example/lti/register/id-1',
      [TOOL_CLAIM]: { deployment_id: 'd-1' },
    })
    expect(at.published).toEqual([{ kind: 'tool', courseId: null }])
  })
  it('without a deployment is told none', async () => {
    const answer = (await ((await register({ mainDeployment: null }).call()) as Done).answer('1')) as { body: Record<string, { deployment_id?: string }> } // oxfmt-ignore
    expect(answer.body[TOOL_CLAIM]!.deployment_id ?? '').toBe('')
  })
  it('is called as the invitation says, and goes into its course', async () => {
    const at = register({ useInvitation: invitation({ name: 'Our Drills', courseId: 'c9' }) })
    const taken = (await at.call()) as Done
    const [tool] = at.given('insert')[0] as [Record<string, unknown>]
    expect(tool).toMatchObject({ name: 'Our Drills', slug: 'our-drills', likeness: 'ourdrills', courseId: 'c9' })
    expect(at.given('addTool')).toEqual([['c9', 'id-1', 'p1', NOW]])
    expect(taken.kept).toEqual({ registrationId: 'id-1', courseId: 'c9' })
    await taken.answer('1')
    expect(at.published).toEqual([{ kind: 'tool', courseId: 'c9' }])
  })
  it('comes with a token that is still good when it is used', async () => {
    const at = register({ useInvitation: undefined })
    expect(said(await at.call())).toBe('registration.token')
    expect(at.names()).not.toContain('insert')
  })
  it('that is here already is told so, and the token stays good', async () => {
    const at = register({ similar: [{ id: 'r0' }] })
    const refusal = (await at.call()) as Refusal
    expect([refusal.code, refusal.detail]).toEqual(['tool.already_registered', 'the same login initiation address is registered here already']) // oxfmt-ignore
    expect(at.given('noteSame')).toEqual([[fingerprint('tk'), 'r0']])
    expect(at.names()).not.toContain('insert')
    expect(at.published).toEqual([{ kind: 'tool', courseId: null }])
  })
  it('may be here a second time where somebody said why', async () => {
    const at = register({ similar: [{ id: 'r0' }], useInvitation: invitation({ secondReason: 'for the annex' }) })
    expect(await at.call()).toHaveProperty('statement')
    expect(JSON.stringify(at.given('add'))).toContain('for the annex')
    const without = register()
    await without.call()
    expect(JSON.stringify(without.given('add'))).not.toContain('secondReason')
  })
  it('is not taken for registered where the records fail', async () => {
    const at = register()
    const fault = new Error('gone')
    const { records } = at.context as unknown as { records: { transaction: unknown } }
    records.transaction = () => Promise.reject(fault)
    await expect(at.call()).rejects.toBe(fault)
  })
  it.each([
    [{ redirect_uris: 'https://t.example/launch' }, 'redirect_uris'],
    [{ initiate_login_uri: 'javascript:alert(1)' }, 'initiate_login_uri'],
    [{ client_name: '' }, 'client_name'],
  ])('is told what is wrong with what it says: %j', (more, what) => {
    const refusal = registration.metadataWhole(pretend().context, of({ sent: description(more) })) as Refusal
    expect(refusal.code).toBe('metadata.invalid')
    const answer = registration.refuseDescription(pretend().context, of({}), refusal).answer() as registration.RegistrationAnswer // oxfmt-ignore
    expect(answer.status).toBe(400)
    expect(String(answer.body['error_description'])).toContain(what)
    expect(answer.body['error']).toMatch(/^invalid_/)
  })
  it('is answered in the words of the standard', () => {
    const answer = (refusal: Refusal) => registration.refuseDescription(pretend().context, of({}), refusal).answer()
    expect(answer(new Refusal('tool.already_registered', 'here'))).toEqual({ status: 400, body: { error: 'invalid_client_metadata', error_description: 'here' } }) // oxfmt-ignore
    const other = new Refusal('tool.name_taken')
    expect(() => answer(other)).toThrow(other)
  })
})

describe('a registration that its tool changes', () => {
  const tool = (more: object = {}) => ({ id: 'r1', slug: 'drills', name: 'Drills', state: 'enabled', clientId: 'c-1', courseId: 'c9', revision: 4, scopes: [], metadata: whole(), ...more }) // oxfmt-ignore
  const propose = async (metadata: object | undefined, of_ = tool()) => {
    const at = register()
    const taken = await change.changeProposed(at.context, of({ tool: of_, known: of_.metadata, metadata }))
    return { ...at, taken, answer: (await taken.answer('1')) as registration.RegistrationAnswer }
  }
  const other = () => whole(description({ client_name: 'Tide Drills II', initiate_login_uri: 'https://t2.example/login' })) // oxfmt-ignore

  it('is only told where nothing is sent, without anything being stored', async () => {
    const { taken, answer, names } = await propose(undefined)
    expect(taken.statement).toBe('“Drills” read its registration.')
    expect(answer).toMatchObject({ status: 200, body: { client_id: 'c-1', client_name: 'Tide Drills' } })
    expect(answer.body).not.toHaveProperty('registration_access_token')
    expect(names()).toEqual(['mainDeployment'])
  })
  it('is a proposal once it was approved: it is told as it stands', async () => {
    const metadata = other()
    const { taken, answer, given } = await propose(metadata)
    expect(given('update')).toEqual([['r1', 4, { proposal: metadata, updatedAt: NOW }]])
    expect(answer.body).toMatchObject({ client_name: 'Tide Drills' })
    expect(taken.statement).toBe('“Drills” described itself; it is enabled.')
  })
  it('is changed freely while it waits, and told as it is then', async () => {
    const { answer, given, published } = await propose(other(), tool({ state: 'waiting' }))
    const [[id, revision, stored]] = given('update') as [[string, number, Record<string, unknown>]]
    expect([id, revision]).toEqual(['r1', 4])
    expect(stored).toMatchObject({ initiationUrl: 'https://t2.example/login', updatedAt: NOW })
    expect(stored).toHaveProperty('placements')
    expect(stored).not.toHaveProperty('proposal')
    expect(answer.body).toMatchObject({ client_name: 'Tide Drills II', scope: SCORE })
    expect(published).toEqual([{ kind: 'tool', courseId: 'c9' }])
  })
  it('is told the scopes that it has, once it was approved', async () => {
    expect((await propose(undefined, tool({ scopes: [] }))).answer.body['scope'] ?? '').toBe('')
    expect((await propose(undefined, tool({ scopes: [SCORE] }))).answer.body['scope']).toBe(SCORE)
  })
  it('is noted beside the tool and its course', () => {
    const { entry } = change.aboutRegistration(pretend().context, of({ method: 'PUT', sent: { a: 1 }, tool: tool() }))
    expect(entry).toMatchObject({ registrationId: 'r1', courseId: 'c9', request: { method: 'PUT', url: 'https://us.example/lti/register', body: '{"a":1}' } }) // oxfmt-ignore
    const none = registration.aboutInvitation(pretend().context, of({ method: 'POST' })).entry
    expect(none).toEqual({ registrationId: null, request: { method: 'POST', url: 'https://us.example/lti/register' } })
  })
})
