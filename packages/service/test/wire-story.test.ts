import { WireStory } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf } from './harness.js'
import { launch13 } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
let column: string
beforeAll(async () => {
  at = await startScoring()
  column = await at.make('Told as a story')
  for (const _ of [1, 2]) await launch13(at.aino, column, at.client)
  await at.score(column, 'aino', 12)
  await at.score(column, 'bo', 9)
  await launch13(at.aino, column, at.client)
})
const list = (query: object) =>
  at.tomas.client.call('listWire', { query: { assignment: column, limit: 50, ...query } }).then(({ items }) => items)
const tell = (entry: string) => at.tomas.client.call('showWireStory', { params: { entry } })

describe('the story of a launch', () => {
  it('begins with its login and ends before the next one of the same person and link', async () => {
    const launches = (await list({ kind: 'launch', person: 'aino' })).reverse()
    expect(launches).toHaveLength(3)
    const told = await tell(launches[1]!.id)
    const kinds = told.entries.filter((one) => one.certain).map((one) => one.kind)
    expect(kinds).toEqual(['login', 'launch', 'score'])
    expect(told.entries.map((one) => one.id)).toContain(launches[1]!.id)
    expect(told.entries.map((one) => one.id)).not.toContain(launches[0]!.id)
    expect(told.entries.map((one) => one.id)).not.toContain(launches[2]!.id)
  })

  it('is the same from whichever of its messages it is told', async () => {
    const [score] = await list({ kind: 'score', person: 'aino' })
    const told = await tell(score!.id)
    for (const { id, certain } of told.entries.filter((one) => one.certain)) {
      const again = await tell(id)
      expect(certain && again.entries.map((one) => one.id)).toEqual(told.entries.map((one) => one.id))
    }
  })

  it('has nobody else’s score in it, and says of calls that name nobody that they only fall into its time', async () => {
    const [score] = await list({ kind: 'score', person: 'aino' })
    const { entries } = await tell(score!.id)
    expect(entries.filter((one) => one.kind === 'score').map((one) => one.person?.username)).toEqual(['aino'])
    for (const one of entries.filter(({ certain }) => !certain)) expect(one.person).toBeNull()
  })

  it('is a file that can be read again, without a secret in it', async () => {
    const [launch] = await list({ kind: 'launch', person: 'aino' })
    const told = await tell(launch!.id)
    expect(WireStory.parse(JSON.parse(JSON.stringify(told)))).toEqual(told)
    expect(JSON.stringify(told)).not.toMatch(/eyJ[\w-]+\.[\w-]+\.[\w-]{20,}/)
  })

  it('is told to those who teach the course only', async () => {
    const [launch] = await list({ kind: 'launch' })
    await at.academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await at.academy.person('nadia', { 'NAV-120': 'instructor' })
    const nadia = await at.academy.signIn('nadia')
    const asked = (who: Scoring['tomas'], entry: string) =>
      codeOf(who.client.call('showWireStory', { params: { entry } }))
    expect(await asked(nadia, launch!.id)).toBe('wire.not_found')
    expect(await asked(at.aino, launch!.id)).toBe('access.denied')
    expect(await asked(at.tomas, '999999999')).toBe('wire.not_found')
  })
})
