import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, openForm, publishDrill, registerKnotwork, sendScore, type Visitor } from './harness.js'
import { launch13 } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
let shared: Visitor
const links = { drill: '', other: '', bearing: '' }

/** What became of an account when different people were taken for one: it was called after whoever came last. */
const becomes = (fullName: string, email: string) =>
  at.academy.query(`update person set full_name = $1, email = $2 where username = '00'`, [fullName, email])
const results = new Map<string, string>()
async function opens(link: string) {
  const { fields } = await openForm(shared, link)
  results.set(link, fields['lis_result_sourcedid']!)
}
async function scores(link: string, value: string) {
  expect((await sendScore(at.academy, results.get(link)!, value)).codeMajor).toBe('success')
}

beforeAll(async () => {
  at = await startScoring({ disclosure: 'name_and_email' })
  const { academy } = at
  await registerKnotwork(academy, { disclosure: 'name_and_email' })
  links.drill = (await publishDrill(academy, 'knotwork-drills')).id
  links.other = (await publishDrill(academy, 'knotwork-drills', { title: 'Other' })).id
  links.bearing = await at.make('Shared bearing')
  await academy.person('00', { 'HYD-210': 'learner' })
  shared = await academy.signIn('00')
  at.subjects['00'] = (await academy.query<{ subject: string }>(`select subject from person where username = '00'`))[0]!.subject // oxfmt-ignore

  await becomes('Tamar Zghvispireli', 'tamar@x.example')
  await opens(links.drill)
  await scores(links.drill, '0.9')
  await opens(links.other)
  await scores(links.other, '0.8')
  await becomes('Li Ming', 'li@x.example')
  await opens(links.drill)
  await scores(links.drill, '0.4')
  await launch13(shared, links.bearing, at.client)
  expect(await at.score(links.bearing, '00', 10)).toBe(204)
  await becomes('Tamar Z. Zghvispireli', 'tamar@x.example')
  await opens(links.drill)
  await scores(links.drill, '0.95')
})

const admin = () => at.academy.admin.client
const part = (body: Record<string, unknown>, person = '00') =>
  admin().call('partPerson', { params: { person }, body: body as never })
const cells = async () =>
  Object.fromEntries(
    await Promise.all(
      ['00', 'li.ming'].flatMap((who) =>
        Object.entries(links).map(async ([link, id]) => {
          const one = await at.cell(id, who).catch(() => null)
          return [`${who} ${link}`, one?.points ?? null]
        }),
      ),
    ),
  ) as Record<string, string | null>
const visits = () =>
  at.academy.query(
    `select p.username, a.title, v.launches from visit v join person p on p.id = v.person_id join assignment a on a.id = v.assignment_id
     where p.username in ('00', 'li.ming') order by 1, 2`,
  )

describe('an account that several people share', () => {
  it('is found by what tools were told of them, of either version, and nobody else is', async () => {
    const { items, lookedThrough } = await admin().call('listDoubles', {})
    expect(lookedThrough).toBeGreaterThan(0)
    expect(items).toHaveLength(1)
    expect(items[0]!.person).toMatchObject({ username: '00' })
    expect(items[0]!.likenesses).toMatchObject([
      { name: 'Tamar Z. Zghvispireli', names: ['Tamar Zghvispireli', 'Tamar Z. Zghvispireli'], emails: ['tamar@x.example'], launches: 3 },
      { name: 'Li Ming', names: ['Li Ming'], emails: ['li@x.example'], launches: 2 },
    ]) // oxfmt-ignore
  })

  it('is for administrators to see and to take apart', async () => {
    expect(await codeOf(at.tomas.client.call('listDoubles', {}))).toBe('access.denied')
    const body = { name: 'Li Ming', username: 'li.ming' }
    expect(await codeOf(at.tomas.client.call('partPerson', { params: { person: '00' }, body }))).toBe('access.denied')
  })

  it.each([
    ['a name that it never had', { name: 'Wang Fang', username: 'wang' }, '00', 'person.not_double'],
    ['a name of almost the same letters', { name: 'li ming', username: 'li.ming' }, '00', 'person.not_double'],
    ['an account of one person', { name: 'Aino Testmann', username: 'other' }, 'aino', 'person.not_double'],
    ['a user name that is taken', { name: 'Li Ming', username: 'aino' }, '00', 'person.username_taken'],
    ['nobody', { name: 'Li Ming', username: 'li.ming' }, 'nobody', 'person.not_found'],
  ])('is not taken apart by %s', async (_, body, person, code) => {
    for (const apply of [false, true]) expect(await codeOf(part({ ...body, apply }, person))).toBe(code)
    expect(await at.academy.query(`select 1 from audit_entry where action = 'part person'`)).toEqual([])
  })

  it('is looked at first, and nothing of it is done', async () => {
    const before = [await cells(), await visits()]
    const would = await part({ name: 'Li Ming', username: 'li.ming' })
    expect(would).toEqual({
      done: false,
      person: expect.objectContaining({ username: '00' }) as object,
      made: { username: 'li.ming', fullName: 'Li Ming', email: 'li@x.example' },
      launches: 2,
      scores: 2,
      undecided: 0,
      courses: ['HYD 210'],
    })
    expect([await cells(), await visits()]).toEqual(before)
    expect(before[0]).toMatchObject({ '00 drill': '95', '00 other': '80', '00 bearing': '10', 'li.ming drill': null })
  })

  it('is taken apart once, of two at once: launches, scores, results and places go where they belong', async () => {
    const both = [part({ name: 'Li Ming', username: 'li.ming', apply: true }), part({ name: 'Li Ming', username: 'li.ming.2', apply: true })] // oxfmt-ignore
    const codes = await Promise.all(both.map((one) => codeOf(one)))
    expect(codes.filter((code) => code === undefined)).toHaveLength(1)
    expect(codes.filter((code) => code === 'person.not_double')).toHaveLength(1)
    const kept = codes[0] === undefined ? 'li.ming' : 'li.ming.2'
    await at.academy.query(`update person set username = 'li.ming' where username = $1`, [kept])
    expect(await cells()).toEqual({
      '00 drill': '95',
      '00 other': '80',
      '00 bearing': null,
      'li.ming drill': '40',
      'li.ming other': null,
      'li.ming bearing': '10',
    })
    expect(await visits()).toEqual([
      { username: '00', title: 'Other', launches: 1 },
      { username: '00', title: 'Soundings and datum', launches: 2 },
      { username: 'li.ming', title: 'Shared bearing', launches: 1 },
      { username: 'li.ming', title: 'Soundings and datum', launches: 1 },
    ])
    const trail = async (who: string) =>
      (await at.tomas.client.call('showTrail', { params: { assignment: links.drill, person: who } })).items.map((one) => one.sent) // oxfmt-ignore
    expect([await trail('00'), await trail('li.ming')]).toEqual([['0.95', '0.9'], ['0.4']])
    const { items } = await at.tomas.client.call('listMembers', { params: { course: 'HYD-210' }, query: {} })
    expect(items.filter(({ person }) => ['00', 'li.ming'].includes(person.username)).map((one) => one.role)).toEqual(['learner', 'learner']) // oxfmt-ignore
    expect((await admin().call('listDoubles', {})).items).toEqual([])
    const [entry] = (await admin().call('listAudit', { query: { limit: 1 } })).items
    expect(entry).toMatchObject({ action: 'part person', subject: 'person 00', after: { name: 'Li Ming', launches: 2, scores: 2 } }) // oxfmt-ignore
  })

  it('goes on by itself: the next score of each is theirs', async () => {
    await opens(links.drill)
    await scores(links.drill, '1')
    expect(await cells()).toMatchObject({ '00 drill': '100', 'li.ming drill': '40' })
  })
})
