import { createHmac, randomUUID } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { FastifyInstance } from 'fastify'
import OAuth from 'oauth-1.0a'
import { afterEach, describe, expect, it } from 'vitest'
import { createKnotwork, MISBEHAVIOURS } from '@bathyscribe/practice-tools'

const ORIGIN = 'http://knotwork.example'
const KEY = 'skerrow-knots'
const SECRET = 'halyard'
const open: FastifyInstance[] = []
afterEach(async () => {
  for (const app of open.splice(0)) await app.close()
})

async function knotwork(stateFile?: string) {
  const app = await createKnotwork({
    publicUrl: ORIGIN,
    consumerKey: KEY,
    sharedSecret: SECRET,
    ...(stateFile && { stateFile }),
  })
  open.push(app)
  const post = async (url: string, fields: Record<string, string>) => {
    const answer = await app.inject({
      method: 'POST',
      url,
      payload: new URLSearchParams(fields).toString(),
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
    })
    return { status: answer.statusCode, text: answer.body, headers: answer.headers }
  }
  return {
    post,
    launch: (change: Record<string, string> = {}, secret = SECRET, key = KEY) =>
      post('/launch', signed(change, secret, key)),
  }
}

function signed(change: Record<string, string>, secret = SECRET, key = KEY): Record<string, string> {
  const fields: Record<string, string> = {
    lti_message_type: 'basic-lti-launch-request',
    lti_version: 'LTI-1p0',
    resource_link_id: 'link-1',
    resource_link_title: 'Bends',
    user_id: 'u-1',
    roles: 'Learner',
    lis_person_name_full: 'Niamh',
    oauth_consumer_key: key,
    oauth_nonce: randomUUID(),
    oauth_signature_method: 'HMAC-SHA1',
    oauth_timestamp: String(Math.floor(Date.now() / 1000)),
    oauth_version: '1.0',
    ...change,
  }
  const library = new OAuth({
    consumer: { key, secret },
    signature_method: 'HMAC-SHA1',
    hash_function: (text, signingKey) => createHmac('sha1', signingKey).update(text).digest('base64'),
  })
  return {
    ...fields,
    oauth_signature:
      fields['oauth_signature'] ??
      library.getSignature({ url: `${ORIGIN}/launch`, method: 'POST', data: fields }, undefined, {} as OAuth.Data),
  }
}

const sessionIn = (text: string) => /name="session" value="([^"]+)"/.exec(text)![1]!

describe('Knotwork Drills, as an honest tool', () => {
  it('takes a launch that is signed by its key and secret, and greets the learner by name', async () => {
    const { status, text } = await (await knotwork()).launch()
    expect(status).toBe(200)
    expect(text).toContain('Niamh')
  })

  it.each<[string, Record<string, string>, string, string, RegExp]>([
    ['a wrong secret', {}, 'other', KEY, /signature of this launch does not match/],
    ['an unknown key', {}, SECRET, 'nobody', /does not know the consumer key “nobody”/],
    ['an old timestamp', { oauth_timestamp: '1000' }, SECRET, KEY, /too old/],
    ['another signature method', { oauth_signature_method: 'PLAINTEXT' }, SECRET, KEY, /cannot verify/],
    ['no link', { resource_link_id: '' }, SECRET, KEY, /does not say resource_link_id/],
    ['another message', { lti_message_type: 'other' }, SECRET, KEY, /not a launch/],
  ])('refuses %s in its own words', async (_, change, secret, key, words) => {
    const { status, text } = await (await knotwork()).launch(change, secret, key)
    expect([400, 401]).toContain(status)
    expect(text).toMatch(words)
  })

  it('refuses the same launch a second time', async () => {
    const tool = await knotwork()
    const fields = signed({})
    expect((await tool.post('/launch', fields)).status).toBe(200)
    expect((await tool.post('/launch', fields)).text).toContain('used before')
  })

  it('scores a drill by its right answers, and says so when there is no place to return the score to', async () => {
    const tool = await knotwork()
    const { text } = await tool.launch({ custom_drill: 'clouds' })
    const answered = await tool.post('/answers', { session: sessionIn(text), q0: '0', q1: '0', q2: '2' })
    expect(answered.text).toContain('You reached 0.6667 of 1')
    expect(answered.text).toContain('no place to return a score to')
    expect((await tool.post('/answers', { session: 'guessed' })).status).toBe(403)
  })

  it('shows an instructor who has worked, also after a restart', async () => {
    const file = join(mkdtempSync(join(tmpdir(), 'knotwork-')), 'state.json')
    const first = await knotwork(file)
    const page = await first.launch({ lis_person_name_full: 'Tamar <b>' })
    await first.post('/answers', { session: sessionIn(page.text), q0: '0', q1: '1', q2: '2' })
    const { text } = await (
      await knotwork(file)
    ).launch({ roles: 'Instructor', lis_person_name_full: 'Tomas', user_id: 'u-9' })
    expect(text).toContain('Tamar &lt;b&gt;')
    expect(text).not.toContain('<b>')
  })
})

describe('Knotwork Drills, told to misbehave', () => {
  it('is told by an instructor, for one link, and by nobody else', async () => {
    const tool = await knotwork()
    const teacher = { roles: 'Instructor', user_id: 'u-9' }
    const { text } = await tool.launch(teacher)
    for (const words of Object.values(MISBEHAVIOURS)) expect(text).toContain(words)
    await tool.post('/misbehave', { session: sessionIn(text), error_500: 'on' })
    expect((await tool.launch()).status).toBe(500)
    expect((await tool.launch({ resource_link_id: 'link-2' })).status).toBe(200)
    const learner = await tool.launch({
      resource_link_id: 'link-2',
      lis_outcome_service_url: 'http://p.example/o',
      lis_result_sourcedid: 'r',
    })
    expect((await tool.post('/misbehave', { session: sessionIn(learner.text), slow: 'on' })).status).toBe(403)
  })

  it.each([
    ['wrong_secret', {}, 401],
    ['refuses_test_learner', { lis_person_name_full: 'Test learner of HYD 210' }, 403],
    ['refuses_frames', {}, 200],
  ])('%s, by a custom parameter of the link', async (fault, change, status) => {
    const answer = await (await knotwork()).launch({ custom_practice_fault: fault, ...change })
    expect(answer.status).toBe(status)
    if (fault === 'refuses_frames')
      expect(answer.headers['content-security-policy']).toContain("frame-ancestors 'none'")
  })
})
