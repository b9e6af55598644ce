import { ERRORS } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import {
  codeOf,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let tool: string
let link: string
let learner: Visitor

beforeAll(async () => {
  academy = await startAcademy()
  tool = (await registerKnotwork(academy)).id
  link = (await publishDrill(academy, 'knotwork-drills', { customParameters: { practice_score: '0.5' } })).id
  await academy.person('niamh', { 'HYD-210': 'learner' })
  learner = await academy.signIn('niamh')
})

const holdAtTool = (...secrets: string[]) =>
  fetch(`${academy.knotwork}/practice/secrets`, {
    method: 'POST',
    body: new URLSearchParams({ secrets: secrets.join(' ') }),
  })
const SENT = 'Your score was sent'
/** One launch whose score comes back at once. @returns that both went through, or the page that says what did not */
async function workOnce(): Promise<string> {
  const { status, page: opened, action, fields } = await openForm(learner, link)
  if (status !== 200) return comeAgain(`${status} ${opened}`)
  const page = await (await fetch(action, { method: 'POST', body: new URLSearchParams(fields) })).text()
  return page.includes(SENT) ? SENT : comeAgain(page)
}
/** What a service says that is short of time on a busy machine (503): no refusal, and done again as it asks. */
function comeAgain(page: string): string | Promise<string> {
  const busy = [ERRORS['service.busy'], ERRORS['service.database_unavailable']]
  return busy.some(({ sentence }) => page.includes(sentence)) ? workOnce() : page
}
const rotate = (body: Record<string, unknown> = {}) =>
  academy.admin.client.call('rotateSecret', { params: { tool }, body })
const keys = () => academy.admin.client.call('listToolKeys', { params: { tool } })

describe('a secret that is rotated', () => {
  it('goes over without one refusal while launches and scores go on', async () => {
    const results: string[] = []
    let going = true
    const work = Promise.all(
      [1, 2, 3].map(async () => {
        while (going) results.push(await workOnce())
      }),
    )
    const pause = () => {
      const before = results.length
      return eventually(() => expect(results.length).toBeGreaterThan(before + 6))
    }
    await pause()
    const { sharedSecret } = await rotate({ overlapHours: 24, launchesWith: 'old' })
    await pause()
    // The tool gets the new one and takes both, but signs with the new one from now on.
    await holdAtTool(sharedSecret!, SECRET)
    await pause()
    // The first score under the new secret has shown that it arrived: launches are signed with it, too.
    expect((await keys()).secrets.map((one) => one.role)).toEqual(['current', 'previous'])
    await holdAtTool(sharedSecret!)
    await pause()
    going = false
    await work
    expect(results.filter((one) => one !== SENT)).toEqual([])
    const refused = await academy.admin.client.call('listWire', { query: { outcome: 'refused' } })
    expect(refused.items).toEqual([])
  })

  it('leaves the use of each key counted, so that one knows when the old one may go', async () => {
    // Uses are written together, a little after they happened: what is read first may be a moment in which both were
    // still used, so the last use of the new one is waited for, too.
    const secrets = await eventually(async () => {
      const now = (await keys()).secrets
      expect(now.map((one) => one.role)).toEqual(['current', 'previous'])
      for (const one of now) expect(one.uses).toBeGreaterThan(0)
      expect(Date.parse(now[1]!.lastUsedAt!)).toBeLessThan(Date.parse(now[0]!.lastUsedAt!))
      return now
    })
    const after = await academy.admin.client.call('endSecret', { params: { tool, id: secrets[1]!.id } })
    expect(after.secrets.length).toBe(1)
    expect(await codeOf(academy.admin.client.call('endSecret', { params: { tool, id: secrets[1]!.id } }))).toBe(
      'tool.secret_not_found',
    )
  })

  it('takes the old one for its overlap, and no longer', async () => {
    const old = (await academy.admin.client.call('revealSecret', { params: { tool } })).sharedSecret
    const { sharedSecret } = await rotate({ overlapHours: 2 })
    await holdAtTool(old, sharedSecret!)
    expect(await workOnce()).toBe(SENT)
    academy.clock.offsetMs = 3 * 3600_000
    const { action, fields } = await openForm(learner, link)
    academy.clock.offsetMs = 0
    expect(action).toBeTruthy()
    await academy.query(`update other_secret set ends_at = now() - interval '1 minute'`)
    const page = await (await fetch(action, { method: 'POST', body: new URLSearchParams({ ...fields }) })).text()
    expect(page).not.toContain(SENT)
    await holdAtTool(sharedSecret!)
    expect(await workOnce()).toBe(SENT)
  })

  it('is refused when it is no new one, has blanks, or there is nothing to rotate', async () => {
    const held = (await academy.admin.client.call('revealSecret', { params: { tool } })).sharedSecret
    expect(await codeOf(rotate({ sharedSecret: held }))).toBe('tool.secret_unchanged')
    expect(await codeOf(rotate({ sharedSecret: 'new-secret ' }))).toBe('tool.secret_has_blanks')
  })

  it('stands in the audit log with who, when and how long, and without the secret', async () => {
    const { items } = await academy.admin.client.call('listAudit', {})
    const entry = items.find((one) => one.action === 'rotate secret')!
    expect(entry.after).toMatchObject({ overlapHours: 2, made: true })
    expect(JSON.stringify(items)).not.toContain(SECRET)
  })
})

describe('a registration comes to its end', () => {
  it('suspended it refuses launches with a page that says so; scores as chosen', async () => {
    const state = (body: { state: 'suspended' | 'enabled'; scoresWhileSuspended?: boolean }) =>
      academy.admin.client.call('setToolState', { params: { tool }, body })
    const { action, fields } = await openForm(learner, link)
    await state({ state: 'suspended', scoresWhileSuspended: false })
    expect((await openForm(learner, link)).page).toContain('The tool is suspended for now.')
    const late = await (await fetch(action, { method: 'POST', body: new URLSearchParams(fields) })).text()
    expect(late).toContain('outcomes.tool_not_enabled')
    await state({ state: 'enabled' })
  })

  it('deleted it says before what hangs on it, stops at once, is out of sight, and comes back as it was', async () => {
    const impact = await academy.admin.client.call('showToolImpact', { params: { tool } })
    expect(impact).toMatchObject({ assignments: 1, published: 1, scores: 1, courses: [{ code: 'HYD 210' }] })
    expect((await academy.admin.client.call('deleteTool', { params: { tool } })).state).toBe('deleted')
    expect((await openForm(learner, link)).page).toContain('The tool was taken away.')
    expect((await academy.admin.client.call('listTools', {})).items).toEqual([])
    expect((await academy.admin.client.call('listTools', { query: { state: 'deleted' } })).items.length).toBe(1)
    expect((await academy.admin.client.call('restoreTool', { params: { tool } })).state).toBe('enabled')
    expect(await codeOf(academy.admin.client.call('restoreTool', { params: { tool } }))).toBe('tool.not_deleted')
    expect(await workOnce()).toBe(SENT)
  })

  it('after the time for undoing its secret is gone; scores and the assignment that bears them stay', async () => {
    const spare = await registerKnotwork(academy, { name: 'Going', secondReason: 'to go' })
    const kept = await registerKnotwork(academy, { name: 'Going too', secondReason: 'to go' })
    await publishDrill(academy, kept.slug, { title: 'Stays' })
    for (const one of [spare, kept]) await academy.admin.client.call('deleteTool', { params: { tool: one.id } })
    const { purgeDeleted } = await import('../src/desk/tools/end-tool.js')
    academy.clock.offsetMs = 29 * 24 * 3600_000
    expect(await purgeDeleted(academy.service.context as never)).toBe(0)
    academy.clock.offsetMs = 31 * 24 * 3600_000
    expect(await purgeDeleted(academy.service.context as never)).toBe(1)
    academy.clock.offsetMs = 0
    const rows = await academy.query<{ name: string; sealed: unknown }>(
      `select name, secret_sealed as sealed from registration where state = 'deleted'`,
    )
    expect(rows).toEqual([{ name: 'Going too', sealed: null }])
  })

  it('replaced by another, every link moves and no score is lost', async () => {
    const before = await academy.admin.client.call('showGradebook', { params: { course: 'HYD-210' } })
    const other = await registerKnotwork(academy, {
      name: 'Knotwork, renewed',
      secondReason: 'replacement',
      sharedSecret: SECRET,
    })
    await holdAtTool(SECRET)
    expect(await codeOf(academy.admin.client.call('replaceTool', { params: { tool }, body: { with: tool } }))).toBe(
      'tool.replace_itself',
    )
    const done = await academy.admin.client.call('replaceTool', { params: { tool }, body: { with: other.slug } })
    expect(done).toMatchObject({ slug: other.slug, assignments: 1 })
    expect(await academy.admin.client.call('showTool', { params: { tool } })).toMatchObject({
      state: 'retired',
      assignments: 0,
      replacedBy: { slug: other.slug },
    })
    expect(await academy.admin.client.call('showGradebook', { params: { course: 'HYD-210' } })).toMatchObject({
      rows: before.rows,
    })
    expect(await workOnce()).toBe(SENT)
  })

  it('changed by two administrators at once, the later one is told', async () => {
    const { id, revision } = await registerKnotwork(academy, { name: 'Fought over', secondReason: 'two' })
    const change = (name: string) =>
      academy.admin.client.call('changeTool', { params: { tool: id }, body: { revision, name } })
    const codes = await Promise.all([codeOf(change('One')), codeOf(change('Two'))])
    expect(codes.filter((one) => one === undefined).length).toBe(1)
    expect(codes).toContain('record.changed_meanwhile')
  })
})
