import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { Surroundings } from '../src/desk/assignments/surroundings.js'
import { codeOf, publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'
import { statementsOf } from './statements.js'

/** An assignment as a course may have several of: what could be taken for it is found by these. */
interface One {
  title: string
  launchUrl: string | null
  custom: Record<string, string>
  resource: string | null
  state: 'draft' | 'published' | 'deleted'
}

let academy: TestAcademy
let course: string
let ids: string[]
const MOST = 7

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await registerKnotwork(academy, { name: 'Knotwork Drills', secondReason: 'an older one' })
  for (let n = 0; n < MOST; n++) await publishDrill(academy, n % 3 === 2 ? 'knotwork-drills-2' : 'knotwork-drills', { title: `Drill ${n}` }) // oxfmt-ignore
  const rows = await academy.query<{ id: string; course_id: string }>('select id, course_id from assignment order by created_at, position, id') // oxfmt-ignore
  ids = rows.map((row) => row.id)
  course = rows[0]!.course_id
})

async function make(all: readonly One[]): Promise<void> {
  await academy.query(`update assignment set state = 'deleted', deleted_at = now()`)
  for (const [n, one] of all.entries())
    await academy.query(
      `update assignment set title = $2, launch_url = $3, custom_parameters = $4, state = $6, deleted_at = null,
         content = case when $5::text is not null then jsonb_build_object('column', jsonb_build_object('label', null, 'points', '10', 'resourceId', $5::text, 'tag', null)) end
       where id = $1`,
      [ids[n], one.title, one.launchUrl, JSON.stringify(one.custom), one.resource, one.state],
    )
}

/** What is judged: nobody asks about what was deleted. */
const standing = async () =>
  (await academy.query<{ id: string }>(`select id from assignment where state <> 'deleted' order by created_at, position, id`)).map((row) => row.id) // oxfmt-ignore

type Reading = Parameters<typeof Surroundings.read>
const contextOf = () => academy.service.context as unknown as Reading[0] & { records: Reading[1] }

async function judge() {
  const context = contextOf()
  const among = await Surroundings.read(context, context.records, course)
  return Promise.all(
    (await standing()).map(async (id) => {
      const one = await context.records.assignments.summary(id)
      const looked = { ...one, audience: null }
      const alone = await Surroundings.remarksOn(context, context.records, course, looked)
      return { alone, among: among.remarks(looked) }
    }),
  )
}
const rulesOf = (remarks: readonly { rule: string }[]) => remarks.map((one) => one.rule)

describe('an assignment is judged alone as among all of its course', () => {
  it('whatever the others are called and lead to', async () => {
    const one = fc.record({
      title: fc.constantFrom('Bends', 'bends', 'BÖJAR', 'böjar', 'Knots “one”', ' Bends'),
      launchUrl: fc.constantFrom(null, 'https://knots.example/launch', 'https://knots.example/launch?a=1'),
      custom: fc.constantFrom({}, { a: '1', b: '2' }, { b: '2', a: '1' }, { a: '1' }, { ab: '1' }),
      resource: fc.constantFrom(null, '', 'r-1', 'r-2'),
      state: fc.constantFrom<One['state']>('draft', 'published', 'deleted'),
    })
    let told = 0
    await fc.assert(
      fc.asyncProperty(fc.array(one, { minLength: MOST, maxLength: MOST }), async (all) => {
        await make(all)
        for (const { alone, among } of await judge()) {
          expect(alone).toEqual(among)
          told += rulesOf(alone).filter((rule) => ['title_alone', 'same_content', 'told_apart'].includes(rule)).length
        }
      }),
      { numRuns: 30 },
    )
    // Chance has made some that can be mixed up.
    expect(told).toBeGreaterThan(30)
  })

  const DRILL: One = { title: 'Bends', launchUrl: 'https://knots.example/launch', custom: { a: '1' }, resource: null, state: 'published' } // oxfmt-ignore
  const remarkOf = async (n: number, rule: string) => (await judge())[n]!.alone.find((one) => one.rule === rule)

  it('counts all that are called alike, and names three that lead to the same, in their order', async () => {
    await make(Array.from({ length: MOST }, (_, n) => ({ ...DRILL, title: n === 0 ? 'BENDS' : n < 3 ? 'Bends' : `Drill ${n}` }))) // oxfmt-ignore
    expect((await remarkOf(0, 'title_alone'))?.facts).toEqual({ title: 'BENDS', others: 2 })
    // Those of the other tool lead elsewhere.
    expect((await remarkOf(0, 'same_content'))?.facts).toEqual({ titles: ['Bends', 'Drill 3', 'Drill 4'] })
    expect((await remarkOf(6, 'same_content'))?.facts).toEqual({ titles: ['BENDS', 'Bends', 'Drill 3'] })
  })

  it.each<[string, Partial<One>]>([
    ['another address', { launchUrl: 'https://knots.example/other' }],
    ['no address of its own', { launchUrl: null }],
    ['another parameter', { custom: { a: '2' } }],
    ['another resource', { resource: 'r-1' }],
    ['a deleted one', { state: 'deleted' }],
  ])('does not take for the same content: %s', async (_, change) => {
    await make([DRILL, { ...DRILL, title: 'Other', ...change }])
    expect(await remarkOf(0, 'same_content')).toBeUndefined()
    await make([DRILL, { ...DRILL, title: 'Other' }])
    expect(await remarkOf(0, 'same_content')).toBeDefined()
  })

  it('says nothing of the same content where an assignment says nothing of its content', async () => {
    const bare: One = { ...DRILL, launchUrl: null, custom: {}, resource: null }
    await make([bare, { ...bare, title: 'Other' }])
    expect(await remarkOf(0, 'same_content')).toBeUndefined()
  })

  it('sees a registration that could be taken for its own only where the course uses it', async () => {
    await make([DRILL, DRILL, DRILL])
    const rules = async () => rulesOf((await judge())[0]!.alone)
    const withTwin = await rules()
    await make([DRILL, DRILL])
    const without = await rules()
    expect(withTwin.filter((rule) => !without.includes(rule))).toEqual(['tool_look_alike'])
  })
})

describe('one assignment', () => {
  it('is judged by as many statements however many its course has', async () => {
    const ask = () => academy.admin.client.call('showAssignment', { params: { assignment: ids[0]! } })
    await make([{ title: 'A', launchUrl: null, custom: {}, resource: null, state: 'published' }])
    await alone(ids[0]!)
    const few = await statementsOf(() => alone(ids[0]!))
    await make(
      ids.map((_, n) => ({ title: `A ${n}`, launchUrl: null, custom: {}, resource: null, state: 'published' })),
    )
    expect(await statementsOf(() => alone(ids[0]!))).toHaveLength(few.length)
    expect(few).toHaveLength(2)
    expect(await codeOf(ask())).toBeUndefined()
  })

  async function alone(id: string) {
    const context = contextOf()
    const one = summaries.get(id) ?? (await context.records.assignments.summary(id))
    summaries.set(id, one)
    await Surroundings.remarksOn(context, context.records, course, { ...one, audience: null })
  }
  const summaries = new Map<string, Awaited<ReturnType<Reading[1]['assignments']['summary']>>>() // oxfmt-ignore
})
