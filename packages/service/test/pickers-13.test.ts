import { newKey, pickingToken } from '@bathyscribe/practice-tools'
import { importPKCS8, exportPKCS8, exportJWK, SignJWT } from 'jose'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { codeOf, openForm, sendFile, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { authorize13, register13, verified, type Client13 } from './harness-13.js'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim/'
const GROUPS = 'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly'
const FILES = 'urn:bathyscribe:scope:coursefiles.readonly'
const course = { course: 'HYD-210' }

let academy: TestAcademy
let tomas: Visitor
let key: Awaited<ReturnType<typeof newKey>>
let clientId = ''
/** Stands for the client ID of a second registration of the same tool. */
const SECOND = 'second'
let secondClientId = ''
let deploymentId = ''
const keyset = createServer((_, response) => {
  void (async () => {
    const { kty, n, e } = await exportJWK(key.key)
    response
      .writeHead(200, { 'content-type': 'application/json' })
      .end(JSON.stringify({ keys: [{ kty, n, e, kid: key.kid, alg: 'RS256' }] }))
  })()
})
let client: Client13

beforeAll(async () => {
  academy = await startAcademy()
  key = await newKey()
  await new Promise<void>((resolve) => keyset.listen(0, '127.0.0.1', resolve))
  client = { origin: `http://127.0.0.1:${(keyset.address() as AddressInfo).port}` } as Client13
  const tool = await register13(academy, client, {
    features: ['scores', 'picker'],
    pickerUrl: `${client.origin}/shelf`,
    scopes: [GROUPS, FILES],
  })
  const second = { name: 'Registered twice', secondReason: 'a test', features: ['picker'] }
  secondClientId = (await register13(academy, client, second)).clientId!
  clientId = tool.clientId!
  const { items } = await academy.admin.client.call('listDeployments', { params: { tool: tool.id } })
  deploymentId = items[0]!.id
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  tomas = await academy.signIn('tomas')
})
afterAll(() => keyset.close())

const begin = (change: Record<string, unknown> = {}) =>
  tomas.client.call('openPicker', { params: course, body: { tool: 'bearing-book', ...change } })
const show = (picking: string) => tomas.client.call('showPicking', { params: { ...course, picking } })

async function asked(id: string) {
  const page = await (await tomas.send(`/lti/picker/${id}/open`)).text()
  const initiation = Object.fromEntries(
    [...page.matchAll(/<input type="hidden" name="([^"]*)" value="([^"]*)"/g)].map(([, name, value]) => [
      name!,
      value!,
    ]),
  )
  const launched = await authorize13(tomas, initiation, client)
  const claims = await verified(academy, launched.fields['id_token']!, clientId)
  return { initiation, claims, settings: claims[`${DL}deep_linking_settings`] as Record<string, unknown> }
}
const platform = () => ({
  issuer: academy.url,
  clientId,
  deploymentId,
  authorizationUrl: '',
  tokenUrl: '',
  keysetUrl: '',
})
async function answer(
  id: string,
  items: readonly Record<string, unknown>[],
  options: { data?: string; deployment?: string; kid?: typeof key; faults?: string[] } = {},
) {
  const { settings } = await asked(id)
  const token = await pickingToken(
    { ...platform(), ...(options.deployment && { deploymentId: options.deployment }) },
    options.kid ?? key,
    { data: options.data ?? (settings['data'] as string) },
    items,
    { does: (fault) => options.faults?.includes(fault) ?? false },
  )
  return post(String(settings['deep_link_return_url']), token)
}
async function post(url: string, token: string) {
  const response = await fetch(url, { method: 'POST', body: new URLSearchParams({ JWT: token }) })
  return { status: response.status, page: await response.text(), token }
}
const LINK = {
  type: 'ltiResourceLink',
  title: 'Noon',
  url: 'https://bench.example/x',
  custom: { exercise: 'noon' },
  lineItem: { scoreMaximum: 20, resourceId: 'noon', label: 'Noon' },
}

describe('a picker of LTI 1.3', () => {
  it('may say that the tool shows single submissions; the assignment then has the way there', async () => {
    const { id } = await begin()
    const submissionReview = {
      reviewableStatus: ['Completed'],
      label: 'Noon, looked at',
      url: 'https://bench.example/review',
      custom: { rubric: 'r1' },
    }
    await answer(id, [{ ...LINK, lineItem: { ...LINK.lineItem, submissionReview } }])
    const made = await tomas.client.call('createAssignment', {
      params: course,
      body: {
        title: 'Reviewed',
        tool: 'bearing-book',
        points: '20',
        category: 'Drills',
        content: { picking: id, item: 0 },
      },
    })
    const [kept] = await academy.query(
      `select reviewable, review_url, review_custom, review_label, review_statuses from assignment where id = $1`,
      [made.id],
    )
    expect(kept).toEqual({
      reviewable: true,
      review_url: submissionReview.url,
      review_custom: { rubric: 'r1' },
      review_label: 'Noon, looked at',
      review_statuses: ['Completed'],
    })
  })

  it('is asked by an id_token that jose verifies, at its own target, without a resource link', async () => {
    const { id } = await begin()
    const { initiation, claims, settings } = await asked(id)
    expect(initiation['target_link_uri']).toBe(`${client.origin}/shelf`)
    expect(claims).toMatchObject({
      [`${CLAIM}message_type`]: 'LtiDeepLinkingRequest',
      [`${CLAIM}deployment_id`]: deploymentId,
      [`${CLAIM}target_link_uri`]: `${client.origin}/shelf`,
    })
    expect(claims).not.toHaveProperty([`${CLAIM}resource_link`])
    expect(settings).toMatchObject({
      accept_types: ['ltiResourceLink'],
      accept_multiple: false,
      accept_lineitem: true,
      deep_link_return_url: `${academy.url}/lti/picked/${id}`,
    })
  })

  it('hands over every item type, and its column, dates and frame stand in the picking', async () => {
    const { id } = await begin({ purpose: 'unit', multiple: true })
    const { page } = await answer(id, [
      { ...LINK, iframe: {}, submission: { endDateTime: '2026-12-10T22:00:00Z' } },
      { type: 'link', url: 'https://bench.example/read', title: 'Read' },
      { type: 'html', html: '<h2>Hold</h2><img src=x onerror=alert(1)>', title: 'Page' },
      { type: 'file', url: `${client.origin}/any`, title: 'keys.json' },
      { type: 'semaphore' },
    ])
    expect(page).toContain('4 items are on your page')
    expect(await show(id)).toMatchObject({
      state: 'answered',
      items: [
        {
          kind: 'tool_link',
          target: 'frame',
          dueAt: '2026-12-10T22:00:00.000Z',
          column: { points: '20', resourceId: 'noon' },
        },
        { kind: 'address' },
        { kind: 'html', html: '<h2>Hold</h2>' },
        { kind: 'file', title: 'keys.json' },
      ],
      problems: [{ place: 4, code: 'item.unknown_type' }],
    })
  })

  it.each([
    ['unsigned', 'jwt.algorithm', { faults: ['pick_unsigned'] }],
    ['with other data', 'picker.data_unknown', { data: 'x' }],
    ['in the name of another deployment', 'picker.wrong_deployment', { deployment: 'd-other' }],
  ])('an answer %s is refused by name and the picking stays open', async (_, code, options) => {
    const { id } = await begin()
    expect((await answer(id, [LINK], options)).status).toBeGreaterThanOrEqual(400)
    expect(await show(id)).toMatchObject({ state: 'open', code })
  })

  it('an answer by a key that the keyset does not hold is refused', async () => {
    const { id } = await begin()
    expect((await answer(id, [LINK], { kid: await newKey() })).status).toBeGreaterThanOrEqual(400)
    expect(await show(id)).toMatchObject({ state: 'open', code: 'jwt.key_unknown' })
  })

  it.each([
    ['for another platform', 'picker.claim_wrong', { aud: 'https://other.example' }],
    ['of another tool', 'picker.claim_wrong', { iss: 'other' }],
    ['of the same tool under its other registration', 'picker.other_registration', { iss: SECOND }],
    ['that is over', 'picker.expired', { iat: 1_700_000_000, exp: 1_700_000_300 }],
    ['without a nonce', 'picker.claim_missing', { nonce: undefined }],
    ['of a launch', 'picker.wrong_message', { [`${CLAIM}message_type`]: 'LtiResourceLinkRequest' }],
  ] as [string, string, Record<string, unknown>][])('a token %s is refused by name', async (_, code, change) => {
    const { id } = await begin()
    const { settings } = await asked(id)
    const now = Math.floor(Date.now() / 1000)
    const claims = {
      iss: clientId, aud: academy.url, iat: now, exp: now + 300, nonce: crypto.randomUUID(), [`${CLAIM}message_type`]: 'LtiDeepLinkingResponse', [`${CLAIM}version`]: '1.3.0',
      [`${CLAIM}deployment_id`]: deploymentId, [`${DL}content_items`]: [LINK], [`${DL}data`]: settings['data'], ...change, ...(change['iss'] === SECOND && { iss: secondClientId }),
    } // oxfmt-ignore
    const signing = await importPKCS8(await exportPKCS8(key.key), 'RS256')
    const token = await new SignJWT(claims as Record<string, unknown>)
      .setProtectedHeader({ alg: 'RS256', kid: key.kid })
      .sign(signing)
    expect((await post(String(settings['deep_link_return_url']), token)).status).toBeGreaterThanOrEqual(400)
    expect(await show(id)).toMatchObject({ state: 'open', code })
  })

  it('the same token a second time changes nothing', async () => {
    const { id } = await begin()
    const first = await answer(id, [LINK])
    expect(first.status).toBe(200)
    expect((await post(`${academy.url}/lti/picked/${id}`, first.token)).status).toBe(409)
  })

  it('a message that is none of ours ends in a page, and nothing breaks', async () => {
    expect(
      (
        await fetch(`${academy.url}/lti/picked/nobody`, {
          method: 'POST',
          body: 'JWT=x',
          headers: { 'content-type': 'application/x-www-form-urlencoded' },
        })
      ).status,
    ).toBe(404)
    const { id } = await begin()
    for (const body of ['', 'JWT=', 'JWT=a.b.c', 'x=%00', `JWT=${'a'.repeat(1_200_000)}`]) {
      const response = await fetch(`${academy.url}/lti/picked/${id}`, {
        method: 'POST',
        body,
        headers: { 'content-type': 'application/x-www-form-urlencoded' },
      })
      expect(response.status).toBeGreaterThanOrEqual(400)
      expect(response.status).toBeLessThan(500)
    }
    expect((await show(id)).state).toBe('open')
  })
})

describe('services of a course', () => {
  it('groups and files are read by a token of the scope, in the own course only, and files through addresses that end', async () => {
    await academy.person('aino', { 'HYD-210': 'learner' })
    await academy.person('bjarte', { 'HYD-210': 'learner' })
    const set = await tomas.client.call('addGroupSet', {
      params: course,
      body: { name: 'Watches', table: 'group;person\nRed;aino\nGreen;bjarte' },
    })
    const { token } = await academy.admin.client.call('createToken', { body: { name: 't', scopes: ['teach', 'read'] } })
    const uploaded = await sendFile(academy, { token, content: 'Depths in metres', name: 'ღრმა.txt' })
    expect(uploaded.status).toBe(201)

    const made = await tomas.client.call('createAssignment', {
      params: course,
      body: { title: 'Margins', tool: 'bearing-book', points: '5', category: 'Drills', publish: true },
    })
    const aino = await academy.signIn('aino')
    const begun = await openForm(aino, made.id)
    const launched = await authorize13(aino, begun.fields, client)
    const claims = await verified(academy, launched.fields['id_token']!, clientId)
    const groupsService = claims['https://purl.imsglobal.org/spec/lti-gs/claim/groupsservice'] as Record<string, string>
    const filesService = claims['urn:bathyscribe:claim:coursefiles'] as Record<string, string>
    const service = async (scope: string) => {
      const now = Math.floor(Date.now() / 1000)
      const assertion = await new SignJWT({
        iss: clientId,
        sub: clientId,
        aud: `${academy.url}/lti/token`,
        iat: now,
        exp: now + 60,
        jti: crypto.randomUUID(),
      })
        .setProtectedHeader({ alg: 'RS256', kid: key.kid })
        .sign(key.key)
      const response = await fetch(`${academy.url}/lti/token`, {
        method: 'POST',
        body: new URLSearchParams({
          grant_type: 'client_credentials',
          client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
          client_assertion: assertion,
          scope,
        }),
      })
      return ((await response.json()) as { access_token: string }).access_token
    }
    const get = (url: string, bearer?: string) =>
      fetch(url, { headers: bearer ? { authorization: `Bearer ${bearer}` } : {} })
    const groups = await get(groupsService['context_groups_url']!, await service(GROUPS))
    expect(groups.headers.get('content-type')).toContain('application/vnd.ims.lti-gs.v1.contextgroupcontainer+json')
    const { groups: all } = (await groups.json()) as { groups: { id: string; name: string; set_id: string }[] }
    expect(all.map((one) => [one.name, one.set_id]).sort()).toEqual([
      ['Green', set.id],
      ['Red', set.id],
    ])
    const paged = await get(`${groupsService['context_groups_url']}?limit=1`, await service(GROUPS))
    const next = /<([^>]*)>; rel="next"/.exec(paged.headers.get('link') ?? '')![1]!
    const rest = await get(next, await service(GROUPS))
    expect(rest.headers.get('link')).toBeNull()
    const pages = (await Promise.all([paged.json(), rest.json()])) as { groups: { name: string }[] }[]
    expect(pages.map((one) => one.groups.length)).toEqual([1, 1])
    expect(pages.flatMap((one) => one.groups.map(({ name }) => name)).sort()).toEqual(['Green', 'Red'])
    const mine = await get(`${groupsService['context_groups_url']}?user_id=${claims.sub}`, await service(GROUPS))
    expect(((await mine.json()) as { groups: { name: string }[] }).groups.map((one) => one.name)).toEqual(['Red'])
    const sets = await get(groupsService['context_group_sets_url']!, await service(GROUPS))
    expect(await sets.json()).toMatchObject({ sets: [{ name: 'Watches' }] })

    const files = (await (await get(filesService['files_url']!, await service(FILES))).json()) as {
      files: { name: string; href: string }[]
    }
    expect(files.files.map((one) => one.name)).toContain('ღრმა.txt')
    const content = await fetch(files.files.find((one) => one.name === 'ღრმა.txt')!.href)
    expect(await content.text()).toBe('Depths in metres')
    academy.clock.offsetMs = 400_000
    expect((await fetch(files.files[0]!.href)).status).toBe(403)
    academy.clock.offsetMs = 0
    expect((await fetch(`${files.files[0]!.href}x`)).status).toBe(403)

    expect((await get(groupsService['context_groups_url']!)).status).toBe(401)
    expect((await get(groupsService['context_groups_url']!, 'a.b.c')).status).toBe(401)
    expect((await get(groupsService['context_groups_url']!, await service(FILES))).status).toBe(403)
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    const nav = await academy.admin.client.call('showCourse', { params: { course: 'NAV-120' } })
    expect((await get(`${academy.url}/lti/courses/${nav.id}/groups`, await service(GROUPS))).status).toBe(404)
    const { items } = await academy.admin.client.call('listWire', { query: { kind: 'service' } })
    expect(items.filter((one) => one.outcome === 'refused').length).toBeGreaterThanOrEqual(4)
    expect(
      await codeOf(tomas.client.call('removeGroupSet', { params: { ...course, groupSet: set.id } })),
    ).toBeUndefined()
  })
})
