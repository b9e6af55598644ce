import { readdirSync } from 'node:fs'
import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { migrateRecords, startService } from '@bathyscribe/service'
import type { DataSource } from 'typeorm'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  KEY,
  openForm,
  openRecords,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

const SCHEMAS = readdirSync(new URL('../src/records/migrations', import.meta.url)).length
/** The schema with which instructors could set points. */
const FIRST_BY_HAND = 4

/** An academy with a little of everything, whose records go back to each older schema and up again, as an upgrade brings them. */
let academy: TestAcademy
let database: DataSource
let aino: Visitor
let assignment: string
let resultId: string
const schemaIs = async () =>
  Number((await database.query<{ n: string }[]>('select count(*) as n from migration'))[0]!.n)
let latest = 0
let reads: Awaited<ReturnType<typeof whatStands>>

beforeAll(async () => {
  academy = await startAcademy()
  const { client } = academy.admin
  await registerKnotwork(academy)
  assignment = (await publishDrill(academy, 'knotwork-drills', { title: 'Knots, “bends” & სიღრმე', points: '12.5' })).id
  for (const name of ['aino', 'niamh', 'drops']) await academy.person(name, { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  aino = await academy.signIn('aino')
  resultId = await resultOf(aino)
  for (const fraction of ['0.1', '0.64', '1.7', '0.333333333333']) await send(resultId, fraction)
  await send(await resultOf(await academy.signIn('niamh')), '1', 'Three knots')
  const dropped = await resultOf(await academy.signIn('drops'))
  await client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'drops' }, body: { state: 'dropped' } })
  await send(dropped, '0.5')
  await client.call('gradeByHand', {
    params: { assignment, person: 'niamh' },
    body: { act: 'override', points: '7.25', comment: 'By hand' },
  })
  const unit = await client.call('addUnit', { params: { course: 'HYD-210' }, body: { title: 'Lead line' } })
  await client.call('addUnitItem', {
    params: { course: 'HYD-210' },
    body: { kind: 'page', unit: unit.id, title: 'Read first', body: '<p>Bring a lead.</p>' },
  })
  await client.call('addMenuEntry', { params: { course: 'HYD-210' }, body: { tool: 'knotwork-drills' } })
  database = await openRecords(academy, 'none')
  latest = await schemaIs()
  reads = await whatStands()
})

const resultOf = async (who: Visitor) => (await openForm(who, assignment)).fields['lis_result_sourcedid']!
const send = (id: string, fraction: string, handedIn = '') =>
  sendOutcome(
    { serviceUrl: `${academy.url}/lti/outcomes`, resultId: id, key: KEY, secret: SECRET },
    outcomeXml('replaceResult', id, fraction).replace(
      '</result>',
      `${handedIn && `<resultData><text>${handedIn}</text></resultData>`}</result>`,
    ),
  )
/** What no upgrade may change: who is scored how, by what trail, in which work. Rows of earlier schemas know less of some things. */
async function whatStands() {
  const { client } = academy.admin
  const trail = async (person: string) => {
    const { cell, items } = await client.call('showTrail', { params: { assignment, person } })
    const sent = items.map((one) => [one.outcome, one.operation, one.sent, one.points, one.handedIn?.value ?? null])
    return { points: cell.points, sent }
  }
  const book = await client.call('showGradebook', { params: { course: 'HYD-210' } })
  return {
    aino: await trail('aino'),
    niamh: await trail('niamh'),
    drops: await trail('drops'),
    columns: book.columns.map((one) => [one.title, one.points, one.scored]),
    handedOn: await academy.query(`select title, hand_on from assignment order by 1`),
    people: await academy.query(
      `select p.username, e.role, e.state from enrolment e join person p on p.id = e.person_id order by 1`,
    ),
    tools: (await client.call('listTools', {})).items.map((one) => [one.name, one.state, one.version]),
  }
}
async function back(steps: number) {
  for (let i = 0; i < steps; i++) await database.undoLastMigration({ transaction: 'all' })
}

describe('an upgrade', () => {
  it('is tried from every schema that there was', () => {
    expect(latest).toBe(SCHEMAS)
    expect(reads.aino.sent.length).toBe(4)
    expect(reads.aino.points).toBe('4.1666666666625')
    expect(reads.niamh.points).toBe('7.25')
    expect(reads.niamh.sent.map(([, , , , handedIn]) => handedIn)).toEqual([null, 'Three knots'])
    expect(reads.handedOn).toMatchObject([{ hand_on: 'manual' }])
  })

  it.each(Array.from({ length: SCHEMAS - 1 }, (_, i) => SCHEMAS - 1 - i))(
    'from schema %i keeps what stands',
    async (schema) => {
      await back(latest - schema)
      expect(await schemaIs()).toBe(schema)
      await migrateRecords(academy.service.context.settings)
      expect(await schemaIs()).toBe(latest)
      // The first schemas knew no points by hand: going back to them takes those away, and the tool's own stand.
      const { niamh } = reads
      const byTool = { points: '12.5', sent: niamh.sent.filter(([, operation]) => operation !== 'override') }
      expect(await whatStands()).toEqual(schema < FIRST_BY_HAND ? { ...reads, niamh: byTool } : reads)
    },
  )

  it('lets tools that there were use in a frame what every frame had until then; new ones begin with nothing', async () => {
    const of = async (tool: string) =>
      (await academy.admin.client.call('showTool', { params: { tool } })).framePermissions
    await registerKnotwork(academy, { name: 'Of before', consumerKey: 'before' })
    expect(await of('of-before')).toEqual([])
    await back(latest - 35)
    await migrateRecords(academy.service.context.settings)
    expect(await of('of-before')).toEqual(['camera', 'microphone', 'screen_sharing', 'clipboard', 'full_screen'])
    await registerKnotwork(academy, { name: 'Of after', consumerKey: 'after' })
    expect(await of('of-after')).toEqual([])
  })

  it('leaves a service that goes on: launches and scores as before', async () => {
    const again = await send(resultId, '0.8')
    expect(again.codeMajor).toBe('success')
    expect((await openForm(aino, assignment)).fields['lis_result_sourcedid']).toBe(resultId)
    const { cell } = await academy.admin.client.call('showTrail', { params: { assignment, person: 'aino' } })
    expect(cell.points).toBe('10')
  })

  it('is done once, also when two machines begin it at once', async () => {
    await back(3)
    const { settings } = academy.service.context
    const done = await Promise.all([migrateRecords(settings), migrateRecords(settings)])
    expect(done.map((one) => one.length).sort()).toEqual([0, 3])
    expect(await schemaIs()).toBe(latest)
  })

  it('is asked for by a program that is newer than the records, and refused by one that is older', async () => {
    const { settings } = academy.service.context
    const start = () =>
      startService({ ...settings, port: 0 }).then(
        async (one) => (await one.stop(), 'started'),
        (error: Error) => error.message,
      )
    await back(1)
    expect(await start()).toMatch(/service migrate/)
    await migrateRecords(settings)
    await database.query(`insert into migration (timestamp, name) values (9999999999999, 'OfTomorrow9999999999999')`)
    expect(await start()).toMatch(/newer version of this program \(OfTomorrow9999999999999\)/)
    await expect(migrateRecords(settings)).rejects.toThrow(/newer version/)
    await database.query(`delete from migration where name = 'OfTomorrow9999999999999'`)
    expect(await start()).toBe('started')
  })
})
