import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { sendDueDigests } from '../src/desk/mail/send-digest.js'
import { codeOf, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { startCatcher } from './mail-catcher.js'
import { startScoring, type Scoring } from './scoring-13.js'

let post: Awaited<ReturnType<typeof startCatcher>>
let at: Scoring
const HOUR_MS = 3600_000
const digestsAreDue = () => sendDueDigests(at.academy.service.context as never)
/** As if the next look had come. */
const later = () => at.academy.query(`update digest set next_at = now() - interval '1 minute'`)
/** The service’s own job may have been quicker than the test: then it is on its way. */
const mailed = () => eventually(() => expect(post.caught).toHaveLength(1))
const shown = (who: Visitor = at.tomas) => who.client.call('showMailDigest', {})
const decoded = (text: string) =>
  text.replace(/=\r\n/g, '').replace(/=([0-9A-F]{2})/g, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)))

beforeAll(async () => {
  post = await startCatcher()
  at = await startScoring({}, { smtpUrl: post.url, mailFrom: 'proof@skerrow.example' })
  await at.academy.query(`update person set email = username || '@skerrow.example'`)
})
beforeEach(() => {
  post.caught.length = 0
})

describe('a digest by mail', () => {
  it('comes to nobody who did not ask for it', async () => {
    await at.make('Never mailed')
    await digestsAreDue()
    expect(post.caught).toEqual([])
    expect(await shown()).toMatchObject({ on: true, every: 'never', nextAt: null })
  })

  it('says what needs the person, with the way there, and nothing of other courses', async () => {
    const column = await at.make('Tide table')
    await at.score(column, 'aino', 5, { userId: 'nobody' })
    const asked = await at.tomas.client.call('changeMailDigest', { body: { every: 'day' } })
    expect(asked).toMatchObject({ every: 'day', to: 'tomas@skerrow.example', sentAt: null })
    expect(new Date(asked.nextAt!).getUTCHours()).toBe(6)
    expect(new Date(asked.nextAt!).getTime() - Date.now()).toBeLessThanOrEqual(24 * HOUR_MS)
    await digestsAreDue()
    expect(post.caught).toEqual([])
    await later()
    await digestsAreDue()
    await mailed()
    expect(post.caught).toMatchObject([{ to: ['tomas@skerrow.example'] }])
    const text = decoded(post.caught[0]!.text)
    expect(text).toContain('From: proof@skerrow.example')
    expect(text).toContain('Auto-Submitted: auto-generated')
    expect(text).toMatch(/Scores refused in the last day\r\n {2}- 1 from Bearing Book/)
    expect(text).toContain('Tide table')
    expect(text).toContain('/account')
    expect(text).not.toMatch(/records office/i)
    expect((await shown()).failure).toBeNull()
  })

  it('does not say the same again, but what is new', async () => {
    await later()
    await digestsAreDue()
    expect(post.caught).toEqual([])
    await at.make('One more')
    await later()
    await digestsAreDue()
    await mailed()
  })

  it('is sent once when two processes look at once', async () => {
    await at.make('Looked at twice')
    await later()
    await Promise.all([digestsAreDue(), digestsAreDue(), digestsAreDue()])
    await mailed()
  })

  it('that the mail server refuses is kept for an hour later, and its words are shown', async () => {
    post.state.refuses = true
    await at.make('Refused')
    await later()
    await digestsAreDue()
    await eventually(async () => expect((await shown()).failure).toContain('the post room is closed'))
    const { nextAt } = await shown()
    expect(new Date(nextAt!).getTime() - Date.now()).toBeLessThanOrEqual(HOUR_MS)
    expect(await codeOf(at.tomas.client.call('sendMailDigest', {}))).toBe('mail.not_taken')
    post.state.refuses = false
    await later()
    await digestsAreDue()
    await mailed()
    await eventually(async () => expect((await shown()).failure).toBeNull())
  })

  it('keeps what people wrote within its line: no title makes a header or an address of its own', async () => {
    const column = await at.make('Tide')
    const forged = 'Tide\r\nBcc: everybody@elsewhere.example\r\n\r\nhello'
    await at.academy.query(`update assignment set title = $2 where id = $1`, [column, forged])
    await at.academy.query(`update person set full_name = $1 where username = 'tomas'`, [forged])
    await at.tomas.client.call('sendMailDigest', {})
    expect(post.caught[0]!.to).toEqual(['tomas@skerrow.example'])
    expect(decoded(post.caught[0]!.text)).not.toMatch(/^Bcc:/m)
  })

  it('ends when it is not wanted any more', async () => {
    await at.tomas.client.call('changeMailDigest', { body: { every: 'never' } })
    expect(await at.academy.query(`select * from digest`)).toEqual([])
  })

  it('of a week comes on Mondays', async () => {
    const { nextAt } = await at.tomas.client.call('changeMailDigest', { body: { every: 'week' } })
    expect(new Date(nextAt!).getUTCDay()).toBe(1)
    await at.tomas.client.call('changeMailDigest', { body: { every: 'never' } })
  })

  it('is for those who teach, and needs an address', async () => {
    expect(await codeOf(shown(at.aino))).toBe('access.denied')
    expect(await codeOf(at.aino.client.call('changeMailDigest', { body: { every: 'day' } }))).toBe('access.denied')
    await at.academy.query(`update person set email = null where username = 'tomas'`)
    expect(await codeOf(at.tomas.client.call('changeMailDigest', { body: { every: 'day' } }))).toBe('mail.no_address')
  })
})

describe('without a mail server', () => {
  let academy: TestAcademy
  beforeAll(async () => {
    academy = await startAcademy()
  })

  it('it says that there is none, and nothing can be asked for', async () => {
    expect(await academy.admin.client.call('showMailDigest', {})).toMatchObject({ on: false, every: 'never' })
    expect(await codeOf(academy.admin.client.call('changeMailDigest', { body: { every: 'day' } }))).toBe('mail.off')
  })
})
