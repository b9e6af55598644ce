import { createHmac } from 'node:crypto'
import OAuth from 'oauth-1.0a'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  KEY,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
} from './harness.js'

let academy: TestAcademy
let assignment: string

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  assignment = (await publishDrill(academy, 'knotwork-drills', { instructions: 'First line\nsecond “line” <3 & more' }))
    .id
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('stranger')
})

function signatureOf(url: string, fields: Record<string, string>): string {
  const { oauth_signature: _, ...data } = fields
  const library = new OAuth({
    consumer: { key: KEY, secret: SECRET },
    signature_method: 'HMAC-SHA1',
    hash_function: (text, key) => createHmac('sha1', key).update(text).digest('base64'),
  })
  return library.getSignature({ url, method: 'POST', data }, undefined, {} as OAuth.Data)
}

describe('a launch in the browser', () => {
  it('carries a signature that a general library makes, over odd characters and line breaks', async () => {
    const { action, fields } = await openForm(await academy.signIn('aino'), assignment)
    expect(action).toBe(`${academy.knotwork}/launch`)
    expect(fields['resource_link_description']).toBe('First line\r\nsecond “line” <3 & more')
    expect(fields['oauth_signature']).toBe(signatureOf(action, fields))
  })

  it('as learner gives a result identifier, as instructor none, as test learner one of its own', async () => {
    const learner = (await openForm(await academy.signIn('aino'), assignment)).fields
    const tomas = await academy.signIn('tomas')
    const instructor = (await openForm(tomas, assignment)).fields
    const rehearsal = (await openForm(tomas, assignment, '?as=test_learner')).fields
    expect(learner).toMatchObject({ roles: 'Learner', lis_result_sourcedid: expect.any(String) as string })
    expect(instructor).toMatchObject({ roles: 'Instructor', lis_outcome_service_url: `${academy.url}/lti/outcomes` })
    expect(instructor).not.toHaveProperty('lis_result_sourcedid')
    expect(rehearsal['lis_person_name_full']).toBe('Test learner of HYD 210')
    expect(rehearsal['user_id']).not.toBe(instructor['user_id'])
  })

  it('tells a tool that may see nothing no more than an opaque, stable identifier', async () => {
    const tool = await registerKnotwork(academy, { name: 'Opaque', disclosure: 'opaque', secondReason: 'test' })
    const other = (await publishDrill(academy, tool.slug, { title: 'Opaque' })).id
    const aino = await academy.signIn('aino')
    const [first, second] = [(await openForm(aino, other)).fields, (await openForm(aino, other)).fields]
    expect(Object.keys(first).filter((name) => name.startsWith('lis_person'))).toEqual([])
    expect(JSON.stringify(first)).not.toMatch(/aino/i)
    expect(first['user_id']).toBe(second['user_id'])
    expect(first['oauth_nonce']).not.toBe(second['oauth_nonce'])
  })

  it('is written to the wire log with everything that was sent, the signature masked', async () => {
    await openForm(await academy.signIn('aino'), assignment)
    const [last] = (await academy.admin.client.call('listWire', { query: { kind: 'launch', limit: 1 } })).items
    const entry = await academy.admin.client.call('showWireEntry', { params: { entry: last!.id } })
    const sent = Object.fromEntries(entry.request.parameters!)
    expect(sent).toMatchObject({ lti_version: 'LTI-1p0', oauth_consumer_key: KEY })
    expect(sent['oauth_signature']).toMatch(/^.{6}… \(28 characters\)$/)
    expect(entry).toMatchObject({
      outcome: 'accepted',
      person: { username: 'aino' },
      tool: { slug: 'knotwork-drills' },
    })
  })

  it('is shown under a policy that lets only our own script run, and frames only the tool', async () => {
    const aino = await academy.signIn('aino')
    const { headers } = await openForm(aino, assignment)
    expect(headers.get('content-security-policy')).toBe(
      "default-src 'none'; script-src 'self'; style-src 'self'; base-uri 'none'; frame-ancestors 'self'",
    )
    const stage = await aino.send(`/lti/stage/${assignment}`)
    expect(stage.headers.get('content-security-policy')).toContain(`frame-src 'self' ${academy.knotwork}`)
    const console_ = await aino.send('/watch', { headers: { accept: 'text/html' } })
    expect(console_.headers.get('content-security-policy')).toContain("frame-src 'self';")
  })
})

describe('a launch that may not be', () => {
  it.each([
    ['a stranger', 'stranger', 404, 'no such assignment'],
    ['a learner of a draft', 'aino', 404, 'no such assignment'],
  ])('is refused for %s by a page that says so', async (_, username, status, words) => {
    const draft = await publishDrill(academy, 'knotwork-drills', { title: 'Draft', publish: false })
    const { status: got, page } = await openForm(await academy.signIn(username), draft.id)
    expect(got).toBe(status)
    expect(page).toContain(words)
    expect(page).not.toContain('oauth_')
  })

  it('is refused without a session, and with an API token', async () => {
    expect((await openForm(academy.visitor(), assignment)).status).toBe(401)
    const { token } = await academy.admin.client.call('createToken', {
      body: { name: 't', scopes: ['read', 'teach', 'administer'] },
    })
    expect((await openForm(academy.visitor({ authorization: `Bearer ${token}` }), assignment)).status).toBe(401)
  })

  it('as test learner is not for learners', async () => {
    expect((await openForm(await academy.signIn('aino'), assignment, '?as=test_learner')).status).toBe(403)
  })

  it('of a suspended tool leaves a wire entry that says why', async () => {
    const tool = await registerKnotwork(academy, { name: 'Sleeping', secondReason: 'test' })
    const { id } = await publishDrill(academy, tool.slug, { title: 'Sleeping' })
    await academy.admin.client.call('setToolState', { params: { tool: tool.slug }, body: { state: 'suspended' } })
    const { status, page } = await openForm(await academy.signIn('aino'), id)
    expect(status).toBe(409)
    expect(page).toContain('suspended for now')
    const [entry] = (await academy.admin.client.call('listWire', { query: { assignment: id } })).items
    expect(entry).toMatchObject({ outcome: 'refused', code: 'launch.tool_suspended' })
  })

  it('of a dropped learner is refused, but not an administrator’s', async () => {
    await academy.person('drops', { 'HYD-210': 'learner' })
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'drops' },
      body: { state: 'dropped' },
    })
    expect((await openForm(await academy.signIn('drops'), assignment)).status).toBe(403)
    expect((await openForm(academy.admin, assignment)).status).toBe(200)
  })
})

describe('coming back from the tool', () => {
  it('shows what it says for people, keeps what it says for the log, and marks the proof', async () => {
    const { fields } = await openForm(await academy.signIn('aino'), assignment)
    const back = fields['launch_presentation_return_url']!
    const response = await fetch(
      `${back}?lti_errormsg=${encodeURIComponent('<script>No class</script>')}&lti_errorlog=E42`,
    )
    const page = await response.text()
    expect(page).toContain('The tool says: “&lt;script&gt;No class')
    expect(page).not.toContain('E42')
    const [entry] = (await academy.admin.client.call('listWire', { query: { kind: 'return' } })).items
    const detail = await academy.admin.client.call('showWireEntry', { params: { entry: entry!.id } })
    expect(detail).toMatchObject({
      outcome: 'failed',
      request: { parameters: expect.arrayContaining([['errorLog', 'E42']]) as unknown },
    })
    const { proof } = await academy.admin.client.call('showAssignment', { params: { assignment } })
    expect(proof[3]).toMatchObject({ state: 'look', statement: expect.stringContaining('No class') as string })
  })

  const count = async () => (await academy.query<{ n: string }>('select count(*) as n from wire_entry'))[0]!.n

  it('again and again is heard ten times an hour from one person, and others are heard all the same', async () => {
    const { fields } = await openForm(await academy.signIn('tomas'), assignment)
    const say = async (words: string) =>
      (await fetch(`${fields['launch_presentation_return_url']!}?lti_errormsg=${words}`)).status
    const before = Number(await count())
    const answers = await Promise.all(Array.from({ length: 25 }, (_, i) => say(`spam${i}`)))
    expect(answers.filter((status) => status === 200)).toHaveLength(10)
    expect(answers.filter((status) => status === 429)).toHaveLength(15)
    expect(Number(await count())).toBe(before + 10)
    const { fields: others } = await openForm(await academy.signIn('aino'), assignment)
    expect((await fetch(`${others['launch_presentation_return_url']!}?lti_msg=Done`)).status).toBe(200)
    academy.clock.offsetMs += 3_600_001
    expect(await say('later')).toBe(200)
    academy.clock.offsetMs -= 3_600_001
  })

  it('to an address that nobody was given is refused and kept nowhere', async () => {
    const before = await count()
    expect((await fetch(`${academy.url}/lti/return/r1-a-b-${'x'.repeat(22)}?lti_errormsg=x`)).status).toBe(404)
    expect(await count()).toBe(before)
  })
})

describe('a launch that the service tries itself', () => {
  it('as a named learner says what the tool answered, step by step', async () => {
    const tried = await academy.admin.client.call('tryLaunch', {
      params: { assignment },
      body: { as: 'learner', person: 'aino' },
    })
    expect(tried).toMatchObject({
      accepted: true,
      status: 200,
      steps: [{ method: 'POST', url: `${academy.knotwork}/launch`, status: 200 }],
    })
    expect(tried.excerpt).toContain('Aino Testmann')
  })

  it('as somebody who is no learner is refused', async () => {
    expect(
      await codeOf(
        academy.admin.client.call('tryLaunch', { params: { assignment }, body: { as: 'learner', person: 'stranger' } }),
      ),
    ).toBe('enrolment.not_found')
  })
})
