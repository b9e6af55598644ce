import type { Tool } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { openForm, publishDrill, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { authorize13, launch13, register13, startClient13, verified, type Client13 } from './harness-13.js'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership'

/** What each identity limit lets through. */
const LIMITS: [Tool['disclosure'], string[]][] = [
  ['opaque', []],
  ['name', ['name']],
  ['email', ['email']],
  ['name_and_email', ['name', 'email']],
]

let academy: TestAcademy
let client: Client13
let clientId: string
let toolId: string
let link: string
let learner: Visitor
let instructor: Visitor

beforeAll(async () => {
  academy = await startAcademy()
  client = await startClient13(academy)
  const tool = await register13(academy, client, {
    customParameters: { who: '$Person.name.full', course: '$Context.label', odd: '$Nobody.knows' },
  })
  clientId = tool.clientId!
  toolId = tool.id
  link = (await publishDrill(academy, tool.slug, { title: 'Noon altitude', instructions: 'Two lines\nof text' })).id
  await academy.person('niamh', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  learner = await academy.signIn('niamh')
  instructor = await academy.signIn('tomas')
})

const lastEntry = async (kind: 'login' | 'launch') =>
  (await academy.admin.client.call('listWire', { query: { kind, limit: 1 } })).items[0]!

describe('a launch of LTI 1.3, verified by jose and our keyset alone', () => {
  it('begins with an initiation that names issuer, client, deployment, target and hints', async () => {
    const { action, fields } = await openForm(learner, link, '?target=frame')
    expect(action).toBe(`${client.origin}/login`)
    expect(fields).toMatchObject({
      iss: academy.url,
      client_id: clientId,
      target_link_uri: `${client.origin}/target`,
      lti_storage_target: '_parent',
    })
    expect(fields['lti_deployment_id']).toMatch(/^[0-9a-z]{12}$/)
    expect(fields['login_hint']).toBeTruthy()
    expect(fields['lti_message_hint']).toBeTruthy()
  })

  it('carries every claim that the standard asks for', async () => {
    const { action, fields, nonce } = await launch13(learner, link, client)
    expect(action).toBe(`${client.origin}/launch`)
    expect(fields['state']).toBe('state-of-the-tool')
    const claims = await verified(academy, fields['id_token']!, clientId)
    const niamh = await academy.query<{ subject: string }>(`select subject from person where username = 'niamh'`)
    expect(claims).toMatchObject({
      iss: academy.url,
      aud: clientId,
      sub: niamh[0]!.subject,
      nonce,
      name: 'Niamh Testmann',
      email: 'niamh@skerrow.example',
      locale: 'en',
      [`${CLAIM}message_type`]: 'LtiResourceLinkRequest',
      [`${CLAIM}version`]: '1.3.0',
      [`${CLAIM}target_link_uri`]: `${client.origin}/target`,
      [`${CLAIM}resource_link`]: { title: 'Noon altitude', description: 'Two lines\nof text' },
      [`${CLAIM}context`]: {
        label: 'HYD 210',
        title: 'Hydrographic Surveying',
        type: ['http://purl.imsglobal.org/vocab/lis/v2/course#CourseSection'],
      },
      [`${CLAIM}tool_platform`]: { name: 'Bathyscribe', product_family_code: 'bathyscribe', url: academy.url },
      [`${CLAIM}launch_presentation`]: { document_target: 'iframe', locale: 'en' },
      [`${CLAIM}custom`]: { who: 'Niamh Testmann', course: 'HYD 210', odd: '$Nobody.knows' },
    })
    expect(claims.exp! - claims.iat!).toBe(300)
    expect(claims.sub!.length).toBeLessThanOrEqual(255)
    expect(claims[`${CLAIM}deployment_id`]).toMatch(/^[0-9a-z]{12}$/)
    expect((claims[`${CLAIM}launch_presentation`] as { return_url: string }).return_url).toContain(
      `${academy.url}/lti/return/`,
    )
    expect(claims[`${CLAIM}lti1p1`]).toBeUndefined()
  })

  it.each([
    ['frame', 'iframe'],
    ['window', 'window'],
  ])('says that it is shown in a %s', async (target, said) => {
    const { fields } = await launch13(learner, link, client, { query: `?target=${target}`, post: target === 'window' })
    const claims = await verified(academy, fields['id_token']!, clientId)
    expect(claims[`${CLAIM}launch_presentation`]).toMatchObject({ document_target: said })
  })

  it('says who enters: learner, instructor, test learner, administrator', async () => {
    const rolesOf = async (who: Visitor, query = '') => {
      const { fields } = await launch13(who, link, client, { query })
      return (await verified(academy, fields['id_token']!, clientId))[`${CLAIM}roles`]
    }
    expect(await rolesOf(learner)).toContain(`${MEMBERSHIP}#Learner`)
    expect(await rolesOf(instructor)).toContain(`${MEMBERSHIP}#Instructor`)
    expect(await rolesOf(instructor, '?as=test_learner')).toEqual(
      expect.arrayContaining([`${MEMBERSHIP}#Learner`, 'http://purl.imsglobal.org/vocab/lti/system/person#TestUser']),
    )
    expect(await rolesOf(academy.admin)).toContain('http://purl.imsglobal.org/vocab/lis/v2/system/person#Administrator')
  })

  it.each(LIMITS)(
    'under the limit “%s” shows %j of a person, in claims and variables alike',
    async (disclosure, shown) => {
      const { revision } = await academy.admin.client.call('showTool', { params: { tool: toolId } })
      await academy.admin.client.call('changeTool', { params: { tool: toolId }, body: { revision, disclosure } })
      const { fields } = await launch13(learner, link, client)
      const claims = await verified(academy, fields['id_token']!, clientId)
      const personal = ['name', 'given_name', 'family_name', 'email'].filter((name) => claims[name] !== undefined)
      expect(personal).toEqual(shown)
      expect((claims[`${CLAIM}custom`] as { who: string }).who).toBe(shown.includes('name') ? 'Niamh Testmann' : '')
      const preview = await academy.admin.client.call('previewIdentity', {
        params: { tool: toolId },
        query: { course: 'HYD-210', person: 'niamh' },
      })
      expect(preview.sent.map((one) => one.name).filter((name) => !['sub', 'roles'].includes(name))).toEqual(shown)
    },
  )

  it('proves the pair of an earlier 1.1 registration, without showing the secret', async () => {
    const tool = await register13(academy, client, {
      name: 'Came from 1.1',
      consumerKey: 'old-key',
      sharedSecret: 'old-secret-of-ours',
      secondReason: 'migration',
    })
    const { id } = await publishDrill(academy, tool.slug, { title: 'Migrated' })
    const { fields } = await launch13(learner, id, client)
    const claims = await verified(academy, fields['id_token']!, tool.clientId!)
    const { createHmac } = await import('node:crypto')
    const signed = [
      'old-key',
      claims[`${CLAIM}deployment_id`],
      academy.url,
      tool.clientId,
      claims.exp,
      claims['nonce'],
    ].join('&')
    expect(claims[`${CLAIM}lti1p1`]).toEqual({
      oauth_consumer_key: 'old-key',
      oauth_consumer_key_sign: createHmac('sha256', 'old-secret-of-ours').update(signed).digest('base64'),
    })
    expect(JSON.stringify(claims)).not.toContain('old-secret')
  })

  it('carries the course’s own deployment where it has one', async () => {
    const made = await academy.admin.client.call('addDeployment', {
      params: { tool: toolId },
      body: { course: 'HYD-210' },
    })
    const { fields } = await launch13(learner, link, client)
    expect((await verified(academy, fields['id_token']!, clientId))[`${CLAIM}deployment_id`]).toBe(made.id)
  })

  it('leaves a wire entry for each step, with hints masked and no token kept', async () => {
    const { fields } = await launch13(learner, link, client)
    const [login, launch] = [await lastEntry('login'), await lastEntry('launch')]
    expect([login.outcome, launch.outcome]).toEqual(['accepted', 'accepted'])
    const kept = JSON.stringify([
      await academy.admin.client.call('showWireEntry', { params: { entry: login.id } }),
      await academy.admin.client.call('showWireEntry', { params: { entry: launch.id } }),
    ])
    expect(kept).toContain('LtiResourceLinkRequest')
    expect(kept).not.toContain(fields['id_token']!.split('.')[2]!)
  })
})

describe('an authorisation request that is not right', () => {
  it.each([
    ['an unknown client', { client_id: 'nobody' }, 'login.client_unknown'],
    ['a redirect address with a slash too much', { redirect_uri: 'SLASH' }, 'login.redirect_uri_unknown'],
    ['a redirect address of another case', { redirect_uri: 'CASE' }, 'login.redirect_uri_unknown'],
    ['no redirect address', { redirect_uri: null }, 'login.redirect_uri_unknown'],
  ])('%s gets a page here, and is sent nowhere', async (_, change, code) => {
    const redirect = { SLASH: `${client.origin}/launch/`, CASE: `${client.origin}/Launch` }
    const wanted = Object.fromEntries(
      Object.entries(change).map(([name, value]) => [name, redirect[value as 'SLASH'] ?? value]),
    ) as Record<string, string | null>
    const answer = await launch13(learner, link, client, { change: wanted })
    expect(answer.status).toBe(400)
    expect(answer.action).toBe('')
    const entry = await lastEntry('login')
    expect(entry).toMatchObject({ outcome: 'refused', code })
    if (code === 'login.redirect_uri_unknown') {
      const { diagnosis } = await academy.admin.client.call('showWireEntry', { params: { entry: entry.id } })
      expect(diagnosis!.detail).toContain(`the nearest registered one is “${client.origin}/launch”`)
    }
  })

  it.each([
    ['another response type', { response_type: 'code' }, 'unsupported_response_type'],
    ['no openid in the scope', { scope: 'profile' }, 'invalid_scope'],
    ['another response mode', { response_mode: 'query' }, 'invalid_request'],
    ['a login page', { prompt: 'login' }, 'invalid_request'],
    ['no nonce', { nonce: null }, 'invalid_request'],
    ['no message hint', { lti_message_hint: null }, 'invalid_request'],
    ['a message hint that was changed', { lti_message_hint: 'eA.AAAAAAAAAAAAAAAAAAAAAA' }, 'invalid_request'],
    ['a login hint of another launch', { login_hint: 'somebody-elses' }, 'invalid_request'],
    ['a value that is too long', { state: 'x'.repeat(4001) }, 'invalid_request'],
  ])('%s goes back to the tool as an error, with its state', async (_, change, error) => {
    const { action, fields } = await launch13(learner, link, client, { change })
    expect(action).toBe(`${client.origin}/launch`)
    expect(fields['error']).toBe(error)
    expect(fields['error_description']).toMatch(/^login\./)
    expect(fields['state']).toBe((change as { state?: string }).state ?? 'state-of-the-tool')
    expect(fields['id_token']).toBeUndefined()
  })

  it('a hint works once', async () => {
    const { fields } = await openForm(learner, link)
    const both = await Promise.all([authorize13(learner, fields, client), authorize13(learner, fields, client)])
    expect(both.filter((one) => one.fields['id_token']).length).toBe(1)
    expect(both.find((one) => one.fields['error'])!.fields['error_description']).toContain('login.hint_used')
  })

  it('a hint works for five minutes', async () => {
    const { fields } = await openForm(learner, link)
    academy.clock.offsetMs = 301_000
    const late = await authorize13(learner, fields, client)
    academy.clock.offsetMs = 0
    expect(late.fields['error_description']).toContain('login.hint_expired')
  })

  it('a hint works for the person who began, and for nobody else, signed in or not', async () => {
    const { fields } = await openForm(learner, link)
    for (const other of [instructor, academy.visitor()]) {
      const answer = await authorize13(other, fields, client)
      expect(answer.fields).toMatchObject({ error: 'login_required', state: 'state-of-the-tool' })
    }
    expect((await authorize13(learner, fields, client)).fields['id_token']).toBeTruthy()
  })

  it('a hint of one tool opens no other', async () => {
    const other = await register13(academy, client, { name: 'Another Book', secondReason: 'test' })
    const { fields } = await openForm(learner, link)
    const answer = await authorize13(learner, fields, client, { change: { client_id: other.clientId! } })
    expect(answer.fields['error_description']).toContain('login.hint_unknown')
  })

  it('a parameter given twice is refused', async () => {
    expect((await learner.send('/lti/authorize?client_id=a&client_id=b')).status).toBe(400)
    const twice = { method: 'POST', body: new URLSearchParams({ client_id: 'b' }) }
    expect((await learner.send('/lti/authorize?client_id=a', twice)).status).toBe(400)
  })

  it('somebody who was dropped in between is not let in', async () => {
    await academy.person('late', { 'HYD-210': 'learner' })
    const late = await academy.signIn('late')
    const { fields } = await openForm(late, link)
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'late' },
      body: { state: 'dropped' },
    })
    expect((await authorize13(late, fields, client)).fields).toMatchObject({ error: 'unauthorized_client' })
  })
})

describe('around a launch of LTI 1.3', () => {
  it('the login cookie goes to the authorisation address alone', async () => {
    const response = await learner.send(`/lti/launch/${link}`)
    const cookie = response.headers.getSetCookie().find((one) => one.startsWith('bathyscribe_login='))!
    expect(cookie).toContain('Path=/lti/authorize')
    expect(cookie).toContain('HttpOnly')
    expect(cookie).toMatch(/SameSite=None/)
    expect(cookie).toContain('Secure')
  })

  it('the stage frames every origin of the tool, and answers the tool’s storage messages', async () => {
    const response = await learner.send(`/lti/stage/${link}`)
    expect(response.headers.get('content-security-policy')).toContain(`frame-src 'self' ${client.origin}`)
    expect(await response.text()).toContain(`data-origins="${client.origin}"`)
  })

  it('an error that the tool sends back is shown to the person and logged for the technologist', async () => {
    const { fields } = await launch13(learner, link, client)
    const claims = await verified(academy, fields['id_token']!, clientId)
    const back = (claims[`${CLAIM}launch_presentation`] as { return_url: string }).return_url
    const page = await (await learner.send(`${back}?lti_errormsg=Closed+for+repairs&lti_errorlog=bench+7`)).text()
    expect(page).toContain('Closed for repairs')
    expect(page).not.toContain('bench 7')
    const [entry] = (await academy.admin.client.call('listWire', { query: { kind: 'return', limit: 1 } })).items
    expect(entry).toMatchObject({ outcome: 'failed', statement: 'The tool reported: “Closed for repairs”' })
  })
})
