import type { Diagnosis } from '@bathyscribe/core/diagnosis'
import { outcomeAuthorization, outcomeXml } from '@bathyscribe/practice-tools'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { Context } from '../src/desk/context.js'
import { toldOf } from '../src/desk/diagnosis/explained-entry.js'
import { settleVerdicts } from '../src/desk/diagnosis/judge.js'
import {
  codeOf,
  KEY,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

const DAY_MS = 86_400_000
const BLANKS = { secret: `${SECRET} ` }

let academy: TestAcademy
let service: string
let tomas: Visitor
let ulla: Visitor
let aino: Visitor
const results: Record<'first' | 'second', string> = { first: '', second: '' }

beforeAll(async () => {
  academy = await startAcademy()
  service = `${academy.url}/lti/outcomes`
  await registerKnotwork(academy)
  await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('ulla', { 'NAV-120': 'instructor' })
  ;[aino, tomas, ulla] = [await academy.signIn('aino'), await academy.signIn('tomas'), await academy.signIn('ulla')]
  for (const name of ['first', 'second'] as const) {
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: `The ${name}` })
    results[name] = (await openForm(aino, id)).fields['lis_result_sourcedid']!
  }
})

beforeEach(async () => {
  academy.service.context.memory.explained.clear()
  await academy.query('truncate diagnosis_verdict, diagnosis_look, diagnosis_waiting')
})

const call: Visitor['client']['call'] = (...given) => academy.admin.client.call(...given)
/** Sends a score as the tool does, signed rightly unless said. @returns its wire entry */
async function send(change: { secret?: string; laterMs?: number } = {}, result = results.first): Promise<string> {
  const body = outcomeXml('replaceResult', result, '0.5')
  const { laterMs = 0, secret = SECRET } = change
  const authorization = outcomeAuthorization({ serviceUrl: service, key: KEY, secret }, body, {
    ageSeconds: -laterMs / 1000,
  })
  academy.clock.offsetMs = laterMs
  await fetch(service, { method: 'POST', headers: { 'content-type': 'application/xml', authorization }, body })
  academy.clock.offsetMs = 0
  return (await call('listWire', { query: { kind: 'outcome', limit: 1 } })).items[0]!.id
}
const shown = (entry: string) => call('showWireEntry', { params: { entry } })
const judge = (
  entry: string,
  body: { verdict: 'right' | 'wrong'; cause?: string; was?: string },
  who = academy.admin,
) => who.client.call('judgeDiagnosis', { params: { entry }, body })
const takeBack = (entry: string, who = academy.admin) => who.client.call('takeVerdictBack', { params: { entry } })
const contextOf = () => academy.service.context as unknown as Context
/** The service’s own queue does so, too: what counts is what is said afterwards, not by whom. */
const settle = (at = academy.clock.now()) => contextOf().records.verdicts.settle(at)
const verdictsOf = async (entry: string) => (await shown(entry)).verdicts
const causes = () => call('listCauses', {})
const found = (certainty: string, ...codes: string[]): Diagnosis => ({
  certainty: certainty as Diagnosis['certainty'],
  sentence: 'So it is.',
  causes: codes.map((code) => ({ code, sentence: `It is ${code}.`, evidence: [], ours: null, theirs: 'Mend it.' })),
  ruledOut: [],
})
/** What explains an entry from now on. */
const explain = (entry: string, certainty: string, ...codes: string[]) =>
  academy.query('update diagnosis set found = $2 where wire_entry_id = $1', [entry, found(certainty, ...codes)])

describe('what a person says of a diagnosis', () => {
  it('is kept with who said it and when, is judged anew, and goes when it is taken back', async () => {
    const entry = await send(BLANKS)
    expect(await verdictsOf(entry)).toEqual([])
    const { items, doubted } = await judge(entry, { verdict: 'right' }, tomas)
    const said = { code: 'secret_has_blanks', verdict: 'right', was: null, byItself: false }
    expect(items).toMatchObject([{ ...said, by: { username: 'tomas' } }])
    expect(doubted).toEqual([])
    await judge(entry, { verdict: 'wrong', was: 'secret_cut' })
    expect(await verdictsOf(entry)).toMatchObject([
      { ...said, verdict: 'wrong', was: 'secret_cut', by: { username: 'ingrid' } },
    ])
    await takeBack(entry, tomas)
    expect(await verdictsOf(entry)).toEqual([])
    expect(await codeOf(takeBack(entry))).toBe('diagnosis.not_judged')
    const audit = await call('listAudit', { query: { limit: 3 } })
    expect(audit.items.map((one) => [one.action, one.subject, one.course?.code])).toEqual([
      ['take back verdict', `wire entry ${entry}`, 'HYD 210'],
      ['judge diagnosis', `wire entry ${entry}`, 'HYD 210'],
      ['judge diagnosis', `wire entry ${entry}`, 'HYD 210'],
    ])
  })

  it('is counted by cause and month, by people and by itself, with what was missed', async () => {
    const [one, another, none] = [
      await send(BLANKS),
      await send({ secret: KEY }),
      await send({ secret: 'nobody-knows-it' }),
    ]
    await judge(one, { verdict: 'right' })
    await judge(another, { verdict: 'wrong', was: 'secret_has_blanks' })
    await judge(none, { verdict: 'wrong', was: 'secret_has_blanks' })
    const month = academy.clock.now().toISOString().slice(0, 7)
    const blanks = { right: 1, rightByItself: 0, wrong: 0, missed: 2, precision: 1, recall: 1 / 3 }
    const swapped = { right: 0, rightByItself: 0, wrong: 1, missed: 0, precision: 0, recall: null }
    expect(await causes()).toMatchObject({
      items: [
        { code: 'secret_has_blanks', ...blanks, inDoubt: false, last: { entry: none }, months: [{ month, ...blanks }] },
        { code: 'key_and_secret_swapped', ...swapped, wrongSince: 1, lookedAt: null, last: { entry: another } },
      ],
      months: [{ month, right: 1, wrong: 1, missed: 2, precision: 0.5 }],
    })
    const metrics = await (await fetch(`${academy.url}/metrics`)).text()
    expect(metrics).toContain('bathyscribe_diagnosis_total{code="secret_has_blanks",verdict="right"} 1')
    expect(metrics).toContain('bathyscribe_diagnosis_total{code="secret_has_blanks",verdict="missed"} 2')
    expect(metrics).toContain('bathyscribe_diagnosis_total{code="key_and_secret_swapped",verdict="wrong"} 1')
  })

  it('of causes that were told together is counted for each of them', async () => {
    const entry = await send(BLANKS)
    await explain(entry, 'proven', 'secret_has_blanks+other_scheme')
    await judge(entry, { verdict: 'right' })
    const { items } = await causes()
    expect(items.map(({ code, right, sentence }) => [code, right, sentence])).toEqual([
      ['other_scheme', 1, null],
      ['secret_has_blanks', 1, null],
    ])
  })

  it('of several has to name the one that was right, and may be wrong of all', async () => {
    const entry = await send(BLANKS)
    await explain(entry, 'several', 'other_scheme', 'other_host')
    expect(await codeOf(judge(entry, { verdict: 'right' }))).toBe('diagnosis.which_cause')
    expect((await judge(entry, { verdict: 'right', cause: 'other_host' })).items).toMatchObject([
      { code: 'other_host' },
    ])
    expect((await judge(entry, { verdict: 'wrong' })).items.map(({ code, verdict }) => [code, verdict])).toEqual([
      ['other_host', 'wrong'],
      ['other_scheme', 'wrong'],
    ])
  })

  it.each([
    ['a cause that was not told', { verdict: 'wrong', cause: 'other_host' }, 'diagnosis.cause_unknown'],
    ['what no cause is called', { verdict: 'wrong', was: 'the moon' }, 'diagnosis.cause_unknown'],
    ['another cause for what was right', { verdict: 'right', was: 'other_host' }, 'diagnosis.right_as_it_was'],
    ['a long text', { verdict: 'wrong', was: 'x'.repeat(201) }, 'request.invalid'],
    ['no word of the two', { verdict: 'perhaps' }, 'request.invalid'],
  ])('is not taken with %s, and nothing is kept', async (_, body, code) => {
    const entry = await send(BLANKS)
    expect(await codeOf(judge(entry, body as never))).toBe(code)
    expect(await verdictsOf(entry)).toEqual([])
  })

  it('is not taken where nothing was told, but for what it was', async () => {
    const none = await send({ secret: 'nobody-knows-it' })
    expect(await codeOf(judge(none, { verdict: 'right' }))).toBe('diagnosis.nothing_told')
    expect((await judge(none, { verdict: 'wrong', was: 'secret_cut' })).items).toMatchObject([{ code: 'none' }])
    expect((await causes()).items.map(({ code }) => code)).toEqual(['secret_cut'])
    expect(await codeOf(judge(await send(), { verdict: 'right' }))).toBe('diagnosis.not_explained')
    expect(await codeOf(judge('999999999', { verdict: 'right' }))).toBe('wire.not_found')
  })

  it('is taken from those only who may see the entry', async () => {
    const entry = await send(BLANKS)
    for (const act of [
      (who: Visitor) => judge(entry, { verdict: 'wrong' }, who),
      (who: Visitor) => takeBack(entry, who),
    ]) {
      expect(await codeOf(act(ulla))).toBe('wire.not_found')
      expect(await codeOf(act(aino))).toBe('access.denied')
      expect(await codeOf(act(academy.visitor()))).toBe('session.required')
    }
    for (const who of [tomas, aino]) {
      expect(await codeOf(who.client.call('listCauses', {}))).toBe('access.denied')
      expect(await codeOf(who.client.call('lookAtCause', { params: { code: 'other_host' } }))).toBe('access.denied')
    }
    expect(await codeOf(aino.client.call('listCauseCodes', {}))).toBe('access.denied')
    expect((await tomas.client.call('listCauseCodes', {})).items).toContain('other_host')
    expect(await verdictsOf(entry)).toEqual([])
  })

  it('by two at once is one verdict', async () => {
    const entry = await send(BLANKS)
    await Promise.all([judge(entry, { verdict: 'right' }), judge(entry, { verdict: 'wrong' }, tomas), judge(entry, { verdict: 'right' })]) // oxfmt-ignore
    expect(await verdictsOf(entry)).toHaveLength(1)
    const gone = await Promise.all([codeOf(takeBack(entry)), codeOf(takeBack(entry, tomas))])
    expect(gone.toSorted()).toEqual(['diagnosis.not_judged', undefined])
  })
})

describe('a cause that was wrong twice', () => {
  const doubted = { certainty: 'likely', doubt: expect.stringContaining('“secret has blanks” has been said to be wrong 2 times') } // oxfmt-ignore
  it('is told as likely wherever it is told, until an administrator has looked at it', async () => {
    const [one, another, third] = [await send(BLANKS), await send(BLANKS), await send(BLANKS)]
    expect((await judge(one, { verdict: 'wrong' })).doubted).toEqual([])
    expect((await shown(third)).explained).toMatchObject({ certainty: 'proven', doubt: null })
    expect((await judge(another, { verdict: 'wrong' }, tomas)).doubted).toEqual(['secret_has_blanks'])
    const { explained } = await shown(third)
    expect(explained).toMatchObject(doubted)
    expect(explained!.letters.en).toContain('likely, and not proven')
    expect(explained!.letters.de).toContain('wahrscheinlich')
    const { entries } = await call('showWireStory', { params: { entry: third } })
    expect(entries.find(({ id }) => id === third)!.explained).toMatchObject(doubted)
    expect(await toldOf(contextOf(), third)).toMatchObject({ certainty: 'likely' })
    expect((await call('showWatch', {})).doubtedCauses).toEqual([{ code: 'secret_has_blanks', wrong: 2 }])
    expect((await tomas.client.call('showWatch', {})).doubtedCauses).toEqual([])
    expect((await causes()).items[0]).toMatchObject({ code: 'secret_has_blanks', inDoubt: true, wrongSince: 2 })

    await call('lookAtCause', { params: { code: 'secret_has_blanks' } })
    expect((await shown(third)).explained).toMatchObject({ certainty: 'proven', doubt: null })
    expect((await call('showWatch', {})).doubtedCauses).toEqual([])
    expect((await causes()).items[0]).toMatchObject({ inDoubt: false, wrongSince: 0, wrong: 2, lookedAt: { by: { username: 'ingrid' } } }) // oxfmt-ignore
    expect((await call('listAudit', { query: { limit: 1 } })).items[0]).toMatchObject({ action: 'look at cause', before: { wrong: 2 } }) // oxfmt-ignore
    await judge(third, { verdict: 'wrong' })
    expect((await shown(third)).explained).toMatchObject({ certainty: 'proven' })
  })

  it('is told as likely of what somebody pastes, too', async () => {
    const secret = `${SECRET} `
    const header = outcomeAuthorization({ serviceUrl: service, key: KEY, secret }, outcomeXml('replaceResult', results.first, '1')) // oxfmt-ignore
    const pasted = async () =>
      (await call('explainMessage', { body: { text: `POST ${service}\nAuthorization: ${header}` } })).diagnosis
    expect(await pasted()).toMatchObject({ certainty: 'proven', causes: [{ code: 'secret_has_blanks' }], doubt: null })
    for (const entry of [await send(BLANKS), await send(BLANKS)]) await judge(entry, { verdict: 'wrong' })
    expect(await pasted()).toMatchObject(doubted)
  })

  it('is not doubted for one entry that was judged twice, nor when it is taken back', async () => {
    const [one, another] = [await send(BLANKS), await send(BLANKS)]
    for (const who of [tomas, academy.admin]) await judge(one, { verdict: 'wrong' }, who)
    expect((await shown(one)).explained).toMatchObject({ certainty: 'proven' })
    await judge(another, { verdict: 'wrong' })
    expect((await shown(one)).explained).toMatchObject({ certainty: 'likely' })
    await takeBack(another)
    expect((await shown(one)).explained).toMatchObject({ certainty: 'proven' })
    expect(await codeOf(call('lookAtCause', { params: { code: 'the moon' } }))).toBe('diagnosis.cause_unknown')
  })
})

describe('a diagnosis shows to be right by itself', () => {
  const byItself = (code: string) => [{ code, verdict: 'right', byItself: true, by: null, was: null }]
  it('when the next message of the link passes, and people go before that', async () => {
    const entry = await send(BLANKS)
    await settle()
    expect(await verdictsOf(entry)).toEqual([])
    await send()
    await Promise.all([settle(), settle()])
    expect(await verdictsOf(entry)).toMatchObject(byItself('secret_has_blanks'))
    expect((await causes()).items[0]).toMatchObject({ right: 0, rightByItself: 1, wrong: 0, precision: 1 })
    await judge(entry, { verdict: 'wrong' })
    expect((await causes()).items[0]).toMatchObject({ right: 0, rightByItself: 0, wrong: 1, precision: 0 })
    await takeBack(entry)
    expect(await verdictsOf(entry)).toMatchObject(byItself('secret_has_blanks'))
    await settle()
    expect(await codeOf(takeBack(entry))).toBe('diagnosis.not_judged')
  })

  it('for the last of those that were refused alone', async () => {
    const [one, another] = [await send(BLANKS), await send(BLANKS)]
    await send()
    await settle()
    expect((await shown(one)).verdicts).toEqual([])
    expect((await shown(another)).verdicts).toHaveLength(1)
  })

  it('not when the next one is refused for something else, nor when it passes at another link', async () => {
    const entry = await send(BLANKS)
    await send({}, results.second)
    await settle()
    await send({ secret: 'nobody-knows-it' })
    await send()
    await settle()
    expect(await verdictsOf(entry)).toEqual([])
  })

  it('not when the next one comes after a day, and then is waited for no more', async () => {
    const waited = () => academy.query('select wire_entry_id from diagnosis_waiting')
    const entry = await send(BLANKS)
    await send({ laterMs: DAY_MS + 1000 })
    await settle()
    expect(await verdictsOf(entry)).toEqual([])
    expect(await waited()).toEqual([])
    await send(BLANKS)
    const tomorrow = (ms: number) => new Date(Date.now() + DAY_MS + ms)
    await settle(tomorrow(-60_000))
    expect(await waited()).toHaveLength(1)
    await settle(tomorrow(60_000))
    expect(await waited()).toEqual([])
  })

  it('not of several, for which it was cannot be told', async () => {
    const entry = await send(BLANKS)
    await academy.query('delete from diagnosis')
    await academy.query('delete from diagnosis_waiting')
    await contextOf().records.diagnoses.keep(entry, found('several', 'other_scheme', 'other_host'))
    await send()
    await settle()
    expect(await verdictsOf(entry)).toEqual([])
  })

  it('of each fault of a token that has more than one', async () => {
    const entry = await send(BLANKS)
    await explain(entry, 'proven', 'issuer', 'audience')
    await send()
    await settle()
    expect((await verdictsOf(entry)).map(({ code }) => code)).toEqual(['audience', 'issuer'])
  })

  it('behind more messages of other kinds, and of ours, than are looked through at a time', async () => {
    const entry = await send(BLANKS)
    await academy.query(
      `insert into wire_entry (at, kind, direction, outcome, statement, registration_id, course_id, assignment_id, duration_ms, request)
       select w.at, case when n % 2 = 0 then w.kind else 'return' end, case when n % 2 = 0 then 'sent' else 'received' end, 'accepted', '', w.registration_id, w.course_id, w.assignment_id, 0,
         '{"method":"POST","url":""}' from wire_entry w, generate_series(1, 700) n where w.id = $1`,
      [entry],
    )
    await send()
    await settle()
    expect(await verdictsOf(entry)).toEqual([])
    // What is younger than a minute may still find an earlier one beside it: it is looked through again.
    academy.clock.offsetMs = 120_000
    await settle()
    await settle()
    expect(await verdictsOf(entry)).toHaveLength(1)
  })

  it('also by the service’s own queue, every minute', async () => {
    const entry = await send(BLANKS)
    await send()
    await settleVerdicts(contextOf())
    expect(await verdictsOf(entry)).toHaveLength(1)
    const schedules = await academy.query<{ name: string; cron: string }>(`select name, cron from ${academy.service.context.settings.databaseSchema}_queue.schedule`) // oxfmt-ignore
    expect(schedules).toContainEqual({ name: 'verdicts', cron: '* * * * *' })
  })

  it('and is counted still when the messages are gone', async () => {
    const entry = await send(BLANKS)
    await judge(entry, { verdict: 'right' }, tomas)
    await academy.query('delete from wire_entry where id = $1', [entry])
    expect((await causes()).items).toMatchObject([{ code: 'secret_has_blanks', right: 1, last: { entry: null } }])
  })
})
