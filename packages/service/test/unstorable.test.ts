import { beforeAll, describe, expect, it } from 'vitest'
import { startScoring, type Scoring } from './scoring-13.js'

let one: Scoring
let column: string
const lastEntry = async () =>
  (await one.academy.query<{ request: string; outcome: string }>(
    'select request::text as request, outcome from wire_entry order by id desc limit 1',
  ))[0]! // oxfmt-ignore

beforeAll(async () => {
  one = await startScoring()
  column = await one.make('Set and drift')
})

describe('what text cannot hold (U+0000, halves of pairs) is kept as far as it can be', () => {
  it('of a score: taken, with its comment', async () => {
    expect(await one.score(column, 'aino', 5, { comment: 'a\u0000b\ud800c' })).toBeLessThan(300)
    const [row] = await one.academy.query<{ comment: string }>('select comment from score where assignment_id = $1', [column]) // oxfmt-ignore
    expect(row!.comment).toBe('ab\ufffdc')
    expect((await one.cell(column, 'aino')).points).toBe('5')
  })

  it('of a refused message: its fields', async () => {
    const { clientId, client } = one
    const body = new URLSearchParams({ grant_type: 'client_credentials', scope: 'a\u0000b', client_assertion: await client.assertion(clientId) }) // oxfmt-ignore
    body.set('client_assertion_type', 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer')
    expect((await fetch(`${one.academy.url}/lti/token`, { method: 'POST', body })).status).toBe(400)
    const { request, outcome } = await lastEntry()
    expect(outcome).toBe('refused')
    expect(request).toContain('a\ufffdb')
  })
})
