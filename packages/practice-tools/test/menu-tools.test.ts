import { createHmac, randomUUID } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createChandlery, createHarbour, LOCKERS, TOOL_FAULTS } from '@bathyscribe/practice-tools'
import type { FastifyInstance } from 'fastify'
import OAuth from 'oauth-1.0a'
import { afterEach, describe, expect, it } from 'vitest'

const ORIGIN = 'http://tool.example'
const PAIR = { consumerKey: 'skerrow', sharedSecret: 'fender-8' }
const open: FastifyInstance[] = []
afterEach(async () => {
  for (const app of open.splice(0)) await app.close()
})

async function start(make: typeof createHarbour, stateFile?: string) {
  const app = await make({ publicUrl: ORIGIN, ...PAIR, slowMs: 20, ...(stateFile && { stateFile }) })
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
  return { app, post, launch: (change: Record<string, string> = {}) => post('/launch', signed(change)) }
}

function signed(change: Record<string, string>): Record<string, string> {
  const fields: Record<string, string> = {
    lti_message_type: 'basic-lti-launch-request',
    lti_version: 'LTI-1p0',
    resource_link_id: 'menu-1',
    resource_link_title: 'Harbour Desk',
    context_id: 'course-1',
    context_title: 'Coastal Navigation',
    user_id: 'u-1',
    roles: 'Instructor',
    lis_person_name_full: 'Tomas',
    oauth_consumer_key: PAIR.consumerKey,
    oauth_nonce: randomUUID(),
    oauth_signature_method: 'HMAC-SHA1',
    oauth_timestamp: String(Math.floor(Date.now() / 1000)),
    oauth_version: '1.0',
    ...change,
  }
  const library = new OAuth({
    consumer: { key: PAIR.consumerKey, secret: PAIR.sharedSecret },
    signature_method: 'HMAC-SHA1',
    hash_function: (text, key) => createHmac('sha1', key).update(text).digest('base64'),
  })
  const signature = library.getSignature(
    { url: `${ORIGIN}/launch`, method: 'POST', data: fields },
    undefined,
    {} as OAuth.Data,
  )
  return { ...fields, oauth_signature: signature }
}
const sessionIn = (text: string) => /name="session" value="([^"]+)"/.exec(text)![1]!

describe('Harbour Desk', () => {
  it('ties account and class at the first entry, and lets learners in after that', async () => {
    const desk = await start(createHarbour)
    const learner = { user_id: 'u-2', roles: 'Learner', lis_person_name_full: 'Niamh' }
    expect((await desk.launch(learner)).text).toContain('has not tied this course')
    const first = await desk.launch()
    expect(first.text).toContain('Shall the desk know you as <strong>Tomas</strong>')
    const session = sessionIn(first.text)
    expect((await desk.post('/account', { session })).text).toContain('Tie this course to a class')
    expect((await desk.post('/class', { session, class: 'Harbour radio' })).text).toContain('Welcome to the desk')
    const second = await desk.launch(learner)
    expect(second.text).toContain('Shall the desk know you as <strong>Niamh</strong>')
    expect((await desk.post('/account', { session: sessionIn(second.text) })).text).toContain('Harbour radio')
  })

  it('a class is untied by instructors only, and everything survives a restart', async () => {
    const file = join(mkdtempSync(join(tmpdir(), 'harbour-')), 'state.json')
    const desk = await start(createHarbour, file)
    const session = sessionIn((await desk.launch()).text)
    await desk.post('/account', { session })
    await desk.post('/class', { session, class: 'Harbour radio' })
    const again = await start(createHarbour, file)
    const back = await again.launch()
    expect(back.text).toContain('Welcome to the desk')
    const learner = await again.launch({ user_id: 'u-2', roles: 'Learner' })
    expect((await again.post('/untie', { session: sessionIn(learner.text) })).status).toBe(403)
    expect((await again.post('/untie', { session: sessionIn(back.text) })).text).toContain('Tie this course to a class')
    expect((await again.post('/class', { session: 'guessed' })).status).toBe(403)
  })
})

describe('Chandlery Shelf', () => {
  it.each(Object.entries(LOCKERS))('opens “%s” under exactly that title', async (title, books) => {
    const shelf = await start(createChandlery)
    expect((await shelf.launch({ resource_link_title: title })).text).toContain(books[0])
    const other = await shelf.launch({ resource_link_title: title.toUpperCase() })
    expect(other.status).toBe(403)
    expect(other.text).toContain(title)
  })
})

describe('every practice tool of LTI 1.1', () => {
  it('publishes its configuration as XML, and shows its credentials', async () => {
    const { app } = await start(createChandlery)
    const { body } = await app.inject('/config.xml')
    expect(body).toContain(`<blti:launch_url>${ORIGIN}/launch</blti:launch_url>`)
    expect((await app.inject('/')).body).toContain(PAIR.sharedSecret)
  })

  it.each(Object.keys(TOOL_FAULTS))('can be told to misbehave by %s, and to behave again', async (fault) => {
    const { app, post } = await start(createHarbour)
    await post('/practice', { [fault]: 'on' })
    const answer = await app.inject('/launch')
    const shown: Record<string, boolean> = {
      slow: answer.statusCode === 200,
      error_500: answer.statusCode === 500,
      refuses_frames: answer.headers['content-security-policy'] === "frame-ancestors 'none'",
      lost_cookies: String(answer.headers['set-cookie']).includes('SameSite=Lax'),
      wrong_clock: Date.now() - Date.parse(String(answer.headers['date'])) > 500_000,
      moved_away: answer.statusCode === 302 || answer.statusCode === 200,
    }
    expect(shown[fault]).toBe(true)
    await post('/practice', {})
    const well = await app.inject('/launch')
    expect(well.statusCode).toBe(200)
    expect(well.headers['content-security-policy']).toBeUndefined()
  })
})
