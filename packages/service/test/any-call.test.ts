import { ERRORS, operations, type ErrorCode, type OperationName } from '@bathyscribe/contract'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { arbitraryOf, broken, odd } from '../../../test/arbitrary.js'
import { startAcademy, csrfOf, type TestAcademy } from './harness.js'
import { endsLast, makeOneOfEach, sendCall, type OneOfEach } from './one-of-each.js'

let academy: TestAcademy
let there: OneOfEach
let csrf = ''
beforeAll(async () => {
  academy = await startAcademy()
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('learner', { 'HYD-210': 'learner' })
  there = await makeOneOfEach(academy, await academy.signIn('tomas'))
  csrf = await csrfOf(academy.admin)
})

const TIMES = 8
/** What ends more than it names comes after those who still want it. */
const ENDS: OperationName[] = ['setCourseState', 'changeCourse', 'revokeSession']
const NAMES = endsLast(
  (Object.keys(operations) as OperationName[]).filter((name) => name !== 'signOut'),
  ENDS,
)

/** Something odd as one piece of an address. */
const piece = (value: unknown) => (typeof value === 'string' ? value : JSON.stringify(value)).toWellFormed()

function addressOf(name: OperationName, query: unknown, part: string | undefined): string {
  const [path, asked] = there.pathOf(name).split('?')
  const pieces = path!.split('/')
  const named = operations[name].path.split('/').flatMap((one, i) => (one.startsWith(':') ? [i] : []))
  if (part !== undefined && named.length > 0) pieces[named[part.length % named.length]!] = encodeURIComponent(part)
  const given = query && typeof query === 'object' ? Object.entries(query) : []
  const search = new URLSearchParams([
    ...new URLSearchParams(asked),
    ...given.map(([key, value]) => [piece(key), piece(value)]),
  ])
  return `${pieces.join('/')}?${search.toString()}`
}

describe('a cursor that no page gave', () => {
  const cursor = (...parts: string[]) => Buffer.from(JSON.stringify(parts)).toString('base64url')
  const ODD = ['9'.repeat(18), '9'.repeat(30), '-1', '1e3', '', 'x', '2026-02-30T00:00:00Z', '-271821-04-20T00:00:00.000Z', '+275760-09-13T00:00:00Z', '\ud800'] // oxfmt-ignore
  const paged = NAMES.filter(
    (name) => 'cursor' in ((operations[name].query as { shape?: object } | undefined)?.shape ?? {}),
  )

  it('is there for many calls', () => expect(paged.length).toBeGreaterThan(10))

  it.each(paged)('is refused by %s, or nothing comes after it', async (name) => {
    const path = addressOf(name, {}, undefined)
    for (const one of ['null', ...ODD.flatMap((part) => [cursor(part), cursor(part, part), cursor(part, 'a', part)])]) {
      const response = await academy.admin.send(`${path}&cursor=${encodeURIComponent(one)}`)
      expect([200, 400], `${name} ${Buffer.from(one, 'base64url').toString()}`).toContain(response.status)
    }
  })
})

describe('every call, with what its schema takes or with one place of it odd, is done or refused by a code, never by a fault of ours', () => {
  it.each(NAMES)('%s', async (name) => {
    const { query, body } = operations[name]
    const sent = fc.record({
      query: query ? arbitraryOf(query) : fc.constant({}),
      body: body ? arbitraryOf(body) : fc.constant(undefined),
      odd: fc.constantFrom('nothing', 'address', ...(query ? ['query'] : []), ...(body ? ['body', 'body'] : [])),
      where: fc.nat(),
      by: odd,
    })
    await fc.assert(
      fc.asyncProperty(sent, async (one) => {
        const asked = one.odd === 'query' ? broken(one.query, one.where, one.by) : one.query
        const given = one.odd === 'body' ? broken(one.body!, one.where, one.by) : one.body
        const address = addressOf(name, asked, one.odd === 'address' ? piece(one.by) : undefined)
        const response = await sendCall(academy.admin, csrf, name, { address, body: given })
        const answer = await response.text()
        if (response.ok) return
        const { code } = JSON.parse(answer) as { code: ErrorCode }
        expect(code, answer).not.toBe('service.fault')
        expect(ERRORS[code]?.status, answer).toBe(response.status)
      }),
      { numRuns: TIMES },
    )
  })
})
