import { beforeAll, describe, expect, it } from 'vitest'
import { launch13 } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
beforeAll(async () => {
  at = await startScoring()
})
const watch = async (who: Scoring['tomas'] = at.tomas) => (await who.client.call('showWatch', {})).scores

describe('Watch', () => {
  it('says which scores were refused in the last day, by cause', async () => {
    const column = await at.make('Watched')
    await at.score(column, 'aino', 5, { userId: 'nobody' })
    await at.score(column, 'aino', 5, { scoreMaximum: 0 })
    expect((await watch()).refused.map((one) => [one.code, one.count]).sort()).toEqual([
      ['score_service.maximum', 1],
      ['score_service.unknown_person', 1],
    ])
    await at.academy.query(`update wire_entry set at = at - interval '25 hours'`)
    expect((await watch()).refused).toEqual([])
  })

  it('names work past due that learners entered and have no score for', async () => {
    const dueAt = new Date(Date.now() + 1_200_000).toISOString()
    const column = await at.make('Past due', { dueAt })
    await launch13(at.aino, column, at.client)
    expect((await watch()).unscored).toEqual([])
    at.academy.clock.offsetMs += 1_800_000
    expect((await watch()).unscored).toMatchObject([{ assignment: { id: column }, learners: 1 }])
    await at.score(column, 'aino', 5)
    expect((await watch()).unscored).toEqual([])
    at.academy.clock.offsetMs -= 1_800_000
  })

  it('names tools that people enter but that say nothing any more', async () => {
    const column = await at.make('Silent')
    await at.score(column, 'bo', 5)
    expect((await watch()).silent).toEqual([])
    await at.academy.query(`update result set heard_at = now() - interval '9 days'`)
    await launch13(at.aino, column, at.client)
    expect((await watch()).silent).toMatchObject([{ tool: { name: 'Bearing Book' }, course: { code: 'HYD 210' } }])
  })

  it('tells the records office’s arrears to administrators only', async () => {
    expect((await watch()).office).toBeNull()
    expect((await watch(at.academy.admin)).office).toEqual({ waiting: 0, refused: 0 })
  })
})
