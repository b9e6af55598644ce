import type { Case, CaseEvent } from '@bathyscribe/contract'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { mailLetters } from '../src/desk/cases/mail-letters.js'
import { codeOf, type Visitor } from './harness.js'
import { launch13 } from './harness-13.js'
import { startCatcher } from './mail-catcher.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
let post: Awaited<ReturnType<typeof startCatcher>>
beforeAll(async () => {
  post = await startCatcher()
  at = await startScoring({}, { smtpUrl: post.url, mailFrom: 'desk@skerrow.example', contactEmail: 'desk@skerrow.example' })
}) // oxfmt-ignore
beforeEach(() => {
  post.caught.length = 0
  post.state.refuses = false
})

const caseOf = (assignment: string, person = 'aino', who: Visitor = at.tomas) =>
  who.client.call('showCase', { params: { assignment, person } })
const judged = async (assignment: string, person = 'aino') => {
  const { code, certainty, actor } = (await caseOf(assignment, person)).judged
  return `${code} ${certainty} ${actor}`
}
const open = (column: string) => launch13(at.aino, column, at.client)
const mailNow = () => mailLetters(at.academy.service.context as never)
const sentences = (one: Pick<Case, 'events'>) => one.events.map(({ sentence }) => sentence)
const write = (assignment: string, body: object, who: Visitor = at.tomas, person = 'aino') =>
  who.client.call('writeInCase', { params: { assignment, person }, body: { subject: 'Your score', text: 'It is here.', ...body } as never }) // oxfmt-ignore

describe('what explains a case', () => {
  it('follows what happens, from the first look to the score', async () => {
    const column = await at.make('Followed')
    expect(await judged(column)).toBe('never_opened proven learner')
    await open(column)
    expect(await judged(column)).toBe('nothing_came unknown technologist')
    await at.score(column, 'bo', 5)
    expect(await judged(column)).toBe('not_handed_in likely learner')
    await at.score(column, 'aino', null, { activityProgress: 'InProgress', gradingProgress: 'NotReady' })
    expect(await judged(column)).toBe('work_goes_on proven learner')
    await at.score(column, 'aino', null, { activityProgress: 'Completed', gradingProgress: 'PendingManual' })
    expect(await judged(column)).toBe('waits_for_grading proven instructor')
    await at.score(column, 'aino', 5, { scoreMaximum: 0 })
    expect(await judged(column)).toBe('score_refused proven tool')
    await at.score(column, 'aino', 30)
    const found = await caseOf(column)
    expect(found.judged).toMatchObject({ code: 'stands', sentence: expect.stringMatching(/^The score is here: 30 of 40 points, received 20\d\d-.* UTC\.$/) as string }) // oxfmt-ignore
    expect(found.letters.support).toBeNull()
    const told = sentences(found)
    expect(told[0]).toBe('Score 30 of 40 taken: 30 of 40 points')
    expect(told[1]).toMatch(/refused|maximum/i)
    expect(told[2]).toBe('The tool says: Completed, PendingManual')
    expect(found.events.filter((one) => one.kind === 'message').length).toBeGreaterThan(0)
    const times = found.events.map((one) => Date.parse(one.at))
    expect(times).toEqual([...times].sort((a, b) => b - a))
    // What the trail tells is not told again by the wire.
    const entries = found.events.flatMap((one) => one.wireEntryId ?? [])
    expect(new Set(entries).size).toBe(entries.length)
  })

  it('names what keeps a learner out, and who held results back', async () => {
    const column = await at.make('Kept out', { opensAt: '2099-01-01T00:00:00Z' })
    expect(await caseOf(column)).toMatchObject({
      judged: { code: 'cannot_open', certainty: 'proven', actor: 'instructor', sentence: expect.stringContaining('not open yet') as string },
    }) // oxfmt-ignore
    const held = await at.make('Held')
    await open(held)
    await at.score(held, 'aino', 30)
    await at.academy.query(`update assignment set released = false where id = $1`, [held])
    expect(await judged(held)).toBe('held_back proven instructor')
    const { letters } = await caseOf(held)
    // Nobody is told a result by the letter that says it is held back. The service’s port may hold the same digits.
    expect(letters.learner.en.text + letters.learner.de.text).not.toMatch(/\b30\b/)
  })

  it('sees refused scores that say nobody, as likely only, and those sent since the opening', async () => {
    const column = await at.make('Unclaimed')
    await at.score(column, 'aino', 5, { userId: 'nobody' })
    expect(await judged(column)).toBe('never_opened proven learner')
    at.academy.clock.offsetMs += 60_000
    await open(column)
    expect(await judged(column)).toBe('nothing_came unknown technologist')
    await at.score(column, 'aino', 5, { userId: 'nobody' })
    expect(await judged(column)).toBe('unclaimed likely technologist')
    const uncertain = (await caseOf(column)).events.filter((one: CaseEvent) => !one.isCertain)
    expect(uncertain).toMatchObject([{ kind: 'message', tone: 'bad' }])
  })

  it('shows what names nobody only to those who may see it on the wire; it may be of another course', async () => {
    const column = await at.make('Elsewhere')
    await open(column)
    await at.score(column, 'aino', 5, { userId: 'nobody' })
    await at.academy.query(`update wire_entry set assignment_id = null, course_id = null where assignment_id = $1 and outcome = 'refused'`, [column]) // oxfmt-ignore
    const [teachers, all] = [await caseOf(column), await caseOf(column, 'aino', at.academy.admin)]
    const likely = (one: Case) => one.events.filter(({ isCertain }) => !isCertain)
    // What explains it is the same for both.
    expect([teachers.judged.code, all.judged.code]).toEqual(['unclaimed', 'unclaimed'])
    expect([likely(teachers).length, likely(all).length]).toEqual([0, 1])
  })

  it('goes by the learner’s place in the course, and is about nobody else', async () => {
    const column = await at.make('Left')
    await at.academy.person('dee', { 'HYD-210': 'learner' })
    await at.academy.admin.client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'dee' }, body: { state: 'dropped' } }) // oxfmt-ignore
    expect(await judged(column, 'dee')).toBe('left_course proven instructor')
    expect(await codeOf(caseOf(column, 'tomas'))).toBe('case.not_of_learner')
    expect(await codeOf(caseOf(column, 'ingrid'))).toBe('enrolment.not_found')
    expect(await codeOf(caseOf(column, 'nobody-here'))).toBe('enrolment.not_found')
  })

  it('asks the tool’s support by what the tool knows, with no name of anybody', async () => {
    const column = await at.make('Asked')
    await open(column)
    const { letters } = await caseOf(column)
    const { text } = letters.support!.en
    expect(text).toContain(at.subjects['aino'])
    expect(text).not.toMatch(/Aino|Testmann|skerrow\.example.*aino/i)
    expect(letters.support!.de.text).toContain(at.subjects['aino'])
  })
})

describe('a missing score', () => {
  it('is said by the learner, who hears at once what is known; teachers see it until it is closed', async () => {
    const column = await at.make('Missed')
    await open(column)
    await at.score(column, 'aino', null, { activityProgress: 'Completed', gradingProgress: 'PendingManual' })
    const before = (await at.tomas.client.call('showWatch', {})).openCases
    expect((await at.aino.client.call('showWork', { params: { assignment: column } })).reportable).toBe(true)
    const say = (said: string) => at.aino.client.call('reportMissingScore', { params: { assignment: column }, body: { said } }) // oxfmt-ignore
    const heard = await say('I handed in on Monday.')
    expect(heard.sentence).toBe('Your work is handed in and waits to be graded by your instructor.')
    expect((await say('And again on Tuesday.')).since).toBe(heard.since)
    expect((await at.tomas.client.call('showWatch', {})).openCases).toBe(before + 1)
    const { items } = await at.tomas.client.call('listCases', { query: { course: 'HYD-210' } })
    expect(items[0]).toMatchObject({ person: { username: 'aino' }, assignment: { id: column }, said: 'And again on Tuesday.' }) // oxfmt-ignore

    const params = { assignment: column, person: 'aino' }
    const closed = await at.tomas.client.call('setCaseState', { params, body: { state: 'closed', note: 'Graded.' } })
    expect(closed.state).toBe('closed')
    expect(closed.events[0]).toMatchObject({ sentence: 'Case closed', text: 'Graded.', by: 'Tomas Testmann' })
    expect(closed.events.slice(1, 3).map((one) => one.text)).toEqual([
      'And again on Tuesday.',
      'I handed in on Monday.',
    ])
    expect((await at.tomas.client.call('showWatch', {})).openCases).toBe(before)
    // Closed twice it is closed once; said again it is open again.
    const again = await at.tomas.client.call('setCaseState', { params, body: { state: 'closed' } })
    expect([again.since, again.events.length]).toEqual([closed.since, closed.events.length])
    await say('Still nothing.')
    expect((await caseOf(column)).state).toBe('open')
    const noted = await at.academy.admin.client.call('listAudit', { query: { search: 'case' } })
    expect(noted.items.map((one) => one.action)).toEqual(expect.arrayContaining(['close case']))
  })

  it('is nothing to say of what one has a result in, or cannot see', async () => {
    const column = await at.make('Graded')
    await at.score(column, 'aino', 5)
    expect((await at.aino.client.call('showWork', { params: { assignment: column } })).reportable).toBe(false)
    expect((await at.tomas.client.call('showWork', { params: { assignment: column } })).reportable).toBe(false)
    const draft = await at.make('Draft', { publish: false })
    const say = (assignment: string, who: Visitor = at.aino) => codeOf(who.client.call('reportMissingScore', { params: { assignment }, body: {} })) // oxfmt-ignore
    expect(await say(draft)).toBe('assignment.not_found')
    expect(await say(column, at.tomas)).toBe('case.not_of_learner')
    const others = await at.make('For others')
    await at.academy.query(`update assignment set for_everyone = false where id = $1`, [others])
    expect(await say(others)).toBe('assignment.not_found')
  })

  it('is heard once when it is said many times at once', async () => {
    const column = await at.make('Said at once')
    await open(column)
    const all = await Promise.all(Array.from({ length: 6 }, (_, n) => at.aino.client.call('reportMissingScore', { params: { assignment: column }, body: { said: `${n}` } }))) // oxfmt-ignore
    expect(new Set(all.map((one) => one.since)).size).toBe(1)
    const { items } = await at.tomas.client.call('listCases', {})
    expect(items.filter((one) => one.assignment.id === column)).toHaveLength(1)
  })

  it('is listed page by page, of one’s own courses only', async () => {
    for (const n of [1, 2, 3]) {
      const params = { assignment: await at.make(`Paged ${n}`), person: 'bo' }
      await at.tomas.client.call('setCaseState', { params, body: { state: 'open' } })
      at.academy.clock.offsetMs += 1000
    }
    const first = await at.tomas.client.call('listCases', { query: { limit: 2 } })
    const second = await at.tomas.client.call('listCases', { query: { limit: 2, cursor: first.next! } })
    expect([...first.items, ...second.items].slice(0, 3).map((one) => one.assignment.title)).toEqual(['Paged 3', 'Paged 2', 'Paged 1']) // oxfmt-ignore
    await at.academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await at.academy.person('neighbour', { 'NAV-120': 'instructor' })
    const neighbour = await at.academy.signIn('neighbour')
    expect((await neighbour.client.call('listCases', {})).items).toEqual([])
    expect(await codeOf(neighbour.client.call('listCases', { query: { course: 'HYD-210' } }))).toBe('course.not_found')
    expect(await codeOf(at.aino.client.call('listCases', {}))).toBe('access.denied')
    for (const cursor of [
      'x',
      Buffer.from('["2026","a"]').toString('base64url'),
      Buffer.from('["no","a","b"]').toString('base64url'),
    ])
      // oxfmt-ignore
      expect(await codeOf(at.tomas.client.call('listCases', { query: { cursor } }))).toBe('request.invalid')
  })
})

describe('what is written', () => {
  it('stands on the learner’s pages until it is put away, and nobody else can put it away', async () => {
    const column = await at.make('Page')
    await write(column, { to: 'learner', by: 'page' })
    const { items } = await at.aino.client.call('listNotes', {})
    expect(items[0]).toMatchObject({ text: 'It is here.', by: 'Tomas Testmann', assignment: { id: column } })
    const away = (who: Visitor, id: string) => who.client.call('putNoteAway', { params: { id } })
    expect(await codeOf(away(at.tomas, items[0]!.id))).toBe('note.not_found')
    expect(sentences(await caseOf(column))[0]).toBe('Written to the learner, on their pages; not put away yet')
    await away(at.aino, items[0]!.id)
    await away(at.aino, items[0]!.id)
    expect((await at.aino.client.call('listNotes', {})).items).toEqual([])
    expect(sentences(await caseOf(column))[0]).toBe('Written to the learner, on their pages; put away as read')
  })

  it('goes by mail once, to where the learner is now, and says how that went', async () => {
    const column = await at.make('Mail')
    const sent = await write(column, { to: 'learner', by: 'mail' })
    expect(sentences(sent)[0]).toMatch(/by mail: (waits to be sent|sent)$/)
    await Promise.all([mailNow(), mailNow(), mailNow()])
    await eventually(() => expect(post.caught.map((one) => one.to)).toEqual([['aino@skerrow.example']]))
    // An answer goes to who wrote it.
    expect(post.caught[0]!.text).toContain('Reply-To: tomas@skerrow.example')
    await eventually(async () => expect(sentences(await caseOf(column))[0]).toBe('Written to the learner, by mail: sent'))
  }) // oxfmt-ignore

  it('goes by mail once each, however many processes mail at once', async () => {
    const column = await at.make('Many mails')
    await write(column, { to: 'learner', by: 'page', text: 'Copied' })
    await at.academy.query(`insert into case_event (assignment_id, person_id, at, kind, subject, text, sent_to, sent_by, try_at)
       select assignment_id, person_id, at, kind, 'No. ' || n, text, sent_to, 'mail', now() - interval '1 minute' from case_event, generate_series(1, 40) n where assignment_id = $1`, [column]) // oxfmt-ignore
    await Promise.all(Array.from({ length: 6 }, mailNow))
    await eventually(() => expect(post.caught.length).toBeGreaterThanOrEqual(40))
    expect(post.caught).toHaveLength(40)
  })

  it('is tried again while the server does not take it, and given up after half an hour', async () => {
    const column = await at.make('Refused mail')
    post.state.refuses = true
    await write(column, { to: 'learner', by: 'mail' })
    await mailNow()
    await eventually(async () => expect(sentences(await caseOf(column))[0]).toMatch(/not taken by the mail server: .*552.*; it is tried again$/)) // oxfmt-ignore
    for (let i = 0; i < 6; i++) {
      await at.academy.query(`update case_event set try_at = now() - interval '1 minute' where try_at is not null`)
      await mailNow()
    }
    await eventually(async () => expect(sentences(await caseOf(column))[0]).toMatch(/552[^;]*$/))
    expect((await caseOf(column)).events[0]!.tone).toBe('bad')
    post.state.refuses = false
    await mailNow()
    expect(post.caught).toEqual([])
  })

  it('goes to support from administrators only; nobody is written to without an address', async () => {
    const column = await at.make('Support')
    const help = { to: 'support', by: 'mail', address: 'help@bearing.example' }
    expect(await codeOf(write(column, help))).toBe('case.support_by_administrators')
    expect(sentences(await write(column, help, at.academy.admin))[0]).toContain('support (help@bearing.example), by mail')
    await mailNow()
    await eventually(() => expect(post.caught.map((one) => one.to)).toEqual([['help@bearing.example']]))
    for (const wrong of [
      { to: 'support', by: 'page', address: 'help@bearing.example' },
      { to: 'support', by: 'mail' },
      { to: 'learner', by: 'mail', address: 'me@elsewhere.example' },
      { ...help, address: 'a@b.example, c@d.example' },
      { ...help, subject: 'Two\r\nBcc: all@skerrow.example' },
      { to: 'learner', by: 'page', text: '  ' },
    ])
      expect(await codeOf(write(column, wrong, at.academy.admin)), JSON.stringify(wrong)).toBe('request.invalid')
    await at.academy.query(`update person set email = null where username = 'bo'`)
    expect(await codeOf(write(column, { to: 'learner', by: 'mail' }, at.tomas, 'bo'))).toBe('case.no_address')
  }) // oxfmt-ignore
})

describe('reminders', () => {
  const remind = (assignment: string, body: object = {}, who: Visitor = at.tomas) =>
    who.client.call('remindLearners', { params: { assignment }, body: body as never })
  const names = (people: { username: string }[]) => people.map((one) => one.username)

  it('go to those who never opened it, once within 20 hours, and not to who opened it meanwhile', async () => {
    const column = await at.make('Reminded', { dueAt: '2099-01-01T12:00:00Z' })
    await open(column)
    const { items, texts } = await at.tomas.client.call('showReminders', { params: { assignment: column } })
    expect(names(items.map((one) => one.person))).toEqual(['bo', 'cyd'])
    expect(texts.en).toContain('it is due 2099-01-01 12:00 UTC')
    expect(names((await remind(column, { people: ['CYD'] })).reminded)).toEqual(['cyd'])
    const all = await remind(column)
    expect([names(all.reminded), names(all.passedOver)]).toEqual([['bo'], ['cyd']])
    expect(names((await remind(column, { people: ['bo'], again: true })).reminded)).toEqual(['bo'])
    await at.academy.query(`update case_event set at = at - interval '21 hours'`)
    expect((await remind(column)).reminded).toHaveLength(2)
    const bo = await at.academy.signIn('bo')
    const notes = (await bo.client.call('listNotes', {})).items.filter((one) => one.assignment.id === column)
    expect(notes.map((one) => one.text)).toEqual([texts.en, texts.en, texts.en])
    expect(sentences(await caseOf(column, 'bo'))[0]).toBe('Reminded, on their pages; not put away yet')
    expect((await caseOf(column, 'bo')).state).toBe('none')
  })

  it('go to nobody twice when several remind at once', async () => {
    const column = await at.make('Reminded at once')
    const all = await Promise.all(Array.from({ length: 5 }, () => remind(column)))
    expect(all.flatMap((one) => names(one.reminded)).sort()).toEqual(['aino', 'bo', 'cyd'])
    expect(await at.academy.query(`select 1 from case_event where assignment_id = $1`, [column])).toHaveLength(3)
  })

  it('go by mail to those who have an address, and say who has none', async () => {
    const column = await at.make('Mailed')
    await at.academy.query(`update person set email = null where username = 'bo'`)
    const { reminded, withoutAddress } = await remind(column, { by: 'mail', text: 'Please open it.' })
    expect([names(reminded), names(withoutAddress)]).toEqual([['aino', 'cyd'], ['bo']])
    await mailNow()
    await eventually(() => expect(post.caught.map((one) => one.to[0]).sort()).toEqual(['aino@skerrow.example', 'cyd@skerrow.example'])) // oxfmt-ignore
    expect(post.caught[0]!.text).toContain('Please open it.')
  })

  it('go to nobody for what learners do not see, nor to somebody who is none of them', async () => {
    const draft = await at.make('Unseen', { publish: false })
    expect(await codeOf(remind(draft))).toBe('reminder.not_shown')
    const column = await at.make('Chosen')
    expect(await codeOf(remind(column, { people: ['tomas'] }))).toBe('reminder.not_theirs')
    expect(await codeOf(remind(column, { people: [] }))).toBe('reminder.nobody')
    expect(await codeOf(remind(column, {}, at.aino))).toBe('access.denied')
    await at.academy.admin.client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'bo' }, body: { state: 'dropped' } }) // oxfmt-ignore
    expect(names((await remind(column)).reminded)).not.toContain('bo')
    await at.academy.admin.client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'bo' }, body: { state: 'active' } }) // oxfmt-ignore
  })
})

describe('somebody who says it all day', () => {
  it('is not said more than 20 times a day, whatever the assignment', async () => {
    const column = await at.make('Said often')
    await at.academy.person('ofa', { 'HYD-210': 'learner' })
    const ofa = await at.academy.signIn('ofa')
    const say = () => codeOf(ofa.client.call('reportMissingScore', { params: { assignment: column }, body: {} }))
    expect(await say()).toBeUndefined()
    await at.academy.query(`insert into case_event (assignment_id, person_id, at, kind) select assignment_id, person_id, at, kind from case_event, generate_series(1, 19) where assignment_id = $1`, [column]) // oxfmt-ignore
    expect(await say()).toBe('case.said_often')
    await at.academy.query(`update case_event set at = at - interval '25 hours' where assignment_id = $1`, [column])
    expect(await say()).toBeUndefined()
  })
})

it('what is removed of a person takes the case and its letters along', async () => {
  const id = await at.academy.person('gone', { 'HYD-210': 'learner' })
  const column = await at.make('Removed')
  await write(column, { to: 'learner', by: 'page', text: 'Dear Gone Testmann' }, at.tomas, 'gone')
  const params = { assignment: column, person: 'gone' }
  await at.tomas.client.call('setCaseState', { params, body: { state: 'open' } })
  const kept = await at.academy.admin.client.call('showPersonData', { params: { person: 'gone' } })
  expect(kept.kinds.filter((one) => /case|letter/.test(one.kind) && one.rows.length > 0).map((one) => one.kind)).toEqual(['cases', 'letters and reminders']) // oxfmt-ignore
  await at.academy.admin.client.call('changePerson', { params: { person: 'gone' }, body: { closed: true } })
  await at.academy.admin.client.call('removePerson', { params: { person: 'gone' }, body: { username: 'gone' } })
  expect(await at.academy.query(`select 1 from case_event where person_id = $1 union all select 1 from learner_case where person_id = $1`, [id])).toEqual([]) // oxfmt-ignore
}) // oxfmt-ignore
