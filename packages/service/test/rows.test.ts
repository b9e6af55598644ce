import { join } from 'node:path'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { copyTemplate, TEST_SCHEMA } from '../../../test/template.js'
import { unfolded } from '../src/records/statements/unfolded.js'
import { describeStatement, type Column } from './described.js'
import { writtenStatements, type Held, type Said, type Written } from './written-statements.js'

const ROOT = join(import.meta.dirname, '../../..')

let client: pg.Client
let remove: () => Promise<void>
let written: Written[]
beforeAll(async () => {
  const database = await copyTemplate(inject('databaseUrl'))
  remove = database.remove
  client = new pg.Client({ connectionString: database.url, options: `-c search_path=${TEST_SCHEMA}` })
  await client.connect()
  written = writtenStatements(join(ROOT, 'packages/service/tsconfig.json'), ROOT, { unfolded }).filter(
    ({ place }) => place.startsWith(RECORDS) && !place.startsWith(`${RECORDS}migrations/`),
  )
  // What stands only while a roster is read stands for the others, too.
  for (const { texts } of written)
    for (const text of texts)
      if (text.startsWith('create temporary table')) await client.query(text.replace(/\bon commit drop\b/, ''))
})
afterAll(async () => {
  await client.end()
  await remove()
})

/** What the driver makes of PostgreSQL's types. */
const MADE_OF: Readonly<Record<string, Held>> = {
  ...Object.fromEntries(['text', 'varchar', 'bpchar', 'name', 'uuid', 'int8', 'numeric', 'char'].map((type) => [type, 'text' as const])),
  ...Object.fromEntries(['int2', 'int4', 'float4', 'float8', 'oid'].map((type) => [type, 'number' as const])),
  ...Object.fromEntries(['timestamptz', 'timestamp'].map((type) => [type, 'date' as const])),
  ...{ bool: 'boolean', bytea: 'bytes', json: 'json', jsonb: 'json' },
} // oxfmt-ignore

/** Why a column is not what the sources say of it; undefined where it is. */
function wrongIn(name: string, said: Said, column: Column | undefined): string | undefined {
  if (!column) return said.mayBeAbsent ? undefined : `${name} is not asked for`
  const made = column.type.startsWith('_') ? 'list' : (MADE_OF[column.type] ?? column.type)
  if (made === 'json') return said.lostInJson && `${name}${said.lostInJson}, and comes as JSON`
  return said.held.has('anything') || said.held.has(made as Held)
    ? undefined
    : `${name} is held as ${[...said.held].join(' or ')}, and comes as ${column.type}`
}

/** Columns that may be null by the schema, in statements that ask only for rows where they are not, or of which all rows are written with one. */
const ASKED_FOR_WITH_VALUE = [
  'assignments.ts: dueAt',
  'diagnoses.ts: clientId',
  'diagnoses.ts: consumerKey',
  'diagnoses.ts: sealed',
  'doubles.ts: personId',
  'identities.ts: since',
  'key-mark.ts: sealed',
  'preflight.ts: facts',
  'preflight.ts: statement',
  'roster-imports.ts: exact',
  'roster-imports.ts: key',
  'roster-imports.ts: username',
  'score-history.ts: since', // work that a tool said something of
  'score-watch.ts: code',
  'score-watch.ts: dueAt',
  'sign-in-links.ts: codeSealed',
  'sweeps.ts: headline',
  'sweeps.ts: soundingId',
]

/** Where statements are put together for tables that are gone through, or by a filter. Other tests run them. */
const MADE_WHERE_THEY_RUN = [
  ...['address-moves.ts', 'assignments.ts', 'changes.ts', 'database.ts', 'expiry.ts', 'person-data.ts', 'replacements.ts'],
  ...['sealed-values.ts', 'statements/messages.ts', 'statements/service-callers.ts', 'wire-partitions.ts', 'wire.ts'],
] // oxfmt-ignore

const RECORDS = 'packages/service/src/records/'
const fileOf = (place: string) => place.replace(RECORDS, '').replace(/:\d+$/, '')

describe('the rows that statements give', () => {
  it('are what the sources say of them', async () => {
    const wrong: string[] = []
    const mayBeNull = new Set<string>()
    for (const { place, texts, row } of written)
      for (const text of texts) {
        const columns = await describeStatement(client, text).catch((error: Error) => error)
        if (columns instanceof Error) {
          wrong.push(`${place}: ${columns.message}`)
          continue
        }
        for (const [name, said] of row) {
          const column = columns.find((one) => one.name === name)
          const found = wrongIn(name, said, column)
          if (found !== undefined) wrong.push(`${place}: ${found}`)
          if (column?.mayBeNull && !said.mayBeNull) mayBeNull.add(`${fileOf(place)}: ${name}`)
        }
      }
    expect(wrong).toEqual([])
    expect([...mayBeNull].sort()).toEqual(ASKED_FOR_WITH_VALUE)
  })

  it('are known wherever the statement stands in the sources', () => {
    const known = written.filter(({ texts }) => texts.length > 0)
    const rest = written.filter(({ texts }) => texts.length === 0)
    expect(known.length).toBeGreaterThan(300)
    expect(known.filter(({ row }) => row.size > 0).length).toBeGreaterThan(180)
    expect([...new Set(rest.map(({ place }) => fileOf(place)))].sort()).toEqual(MADE_WHERE_THEY_RUN)
  })

  const text = { held: new Set<Held>(['text']), mayBeNull: false, mayBeAbsent: false, lostInJson: undefined }
  it.each<[string, Partial<Said>, string | undefined]>([
    ['select 7::bigint as x', {}, undefined],
    ['select 7::bigint as x', { held: new Set(['number']) }, 'x is held as number, and comes as int8'],
    ['select 7 as x', { held: new Set(['number', 'date']) }, undefined],
    ['select now()::date as x', {}, 'x is held as text, and comes as date'],
    ['select array[7] as x', { held: new Set(['list']) }, undefined],
    ['select array[7] as x', { held: new Set(['number']) }, 'x is held as number, and comes as _int4'],
    ['select 7 as y', {}, 'x is not asked for'],
    ['select 7 as y', { mayBeAbsent: true }, undefined],
    [`select '{}'::jsonb as x`, { held: new Set(['json']) }, undefined],
    [`select '{}'::jsonb as x`, { lostInJson: '.at is held as date' }, 'x.at is held as date, and comes as JSON'],
  ])('of %s, held as %j, are told to be wrong as they are', async (statement, change, wrong) => {
    const columns = await describeStatement(client, statement)
    expect(wrongIn('x', { ...text, ...change }, columns.find((one) => one.name === 'x'))).toBe(wrong) // oxfmt-ignore
  })
  it('of a statement that is none are not told', async () => {
    await expect(describeStatement(client, 'select nothing from nowhere')).rejects.toThrow('"nowhere" does not exist')
    expect(await describeStatement(client, 'select id from course')).toEqual([{ name: 'id', type: 'text', mayBeNull: false }]) // oxfmt-ignore
  })
})
