import { beforeAll, describe, expect, it } from 'vitest'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
beforeAll(async () => {
  at = await startScoring()
})

/** How often the records are asked while something is done. */
async function questions(work: () => Promise<unknown>): Promise<number> {
  const { scores } = at.academy.service.context.records as unknown as {
    scores: { manager: Record<string, (...args: unknown[]) => unknown> }
  }
  const { manager } = scores
  let asked = 0
  const before = new Map<string, (...args: unknown[]) => unknown>()
  for (const name of ['query', 'find', 'findBy', 'findOneBy', 'findOne']) {
    const own = manager[name]!
    before.set(name, own)
    manager[name] = (...args) => (asked++, own.apply(manager, args))
  }
  try {
    await work()
  } finally {
    for (const [name, own] of before) manager[name] = own
  }
  return asked
}

describe('however large a course is', () => {
  it('its gradebook is read by four queries', async () => {
    const { readGradebook } = await import('../src/desk/grades/read-gradebook.js')
    const { context } = at.academy.service
    const course = await context.records.courses.byRef('HYD-210')
    for (const title of ['A', 'B', 'C']) await at.score(await at.make(title), 'aino', 10)
    for (const first of [2, 5000])
      expect(
        await questions(() => readGradebook(context as never, course as never, { testLearner: false, first })),
      ).toBe(4)
  })

  it('a page of its roster is one query, and one more says whose token it is', async () => {
    await at.call('GET', 'memberships')
    expect(await questions(() => at.call('GET', 'memberships?limit=2'))).toBe(1)
    const { statements } = at.academy.service.context
    let asked = 0
    const { findCaller } = statements
    statements.findCaller = (question) => (asked++, findCaller(question))
    await at.call('GET', 'memberships?limit=2')
    statements.findCaller = findCaller
    expect(asked).toBe(1)
  })

  it('a score is taken by one question and one statement', async () => {
    const column = await at.make('Counted')
    await at.score(column, 'aino', 1)
    expect(await questions(() => at.score(column, 'aino', 2))).toBe(0)
  })
})
