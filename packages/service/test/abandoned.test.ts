import type { FastifyRequest } from 'fastify'
import type { DataSource } from 'typeorm'
import { beforeAll, describe, expect, it } from 'vitest'
import { toRefusal } from '../src/http/problems.js'
import { Abandoned, cancelAbandoned, readFor } from '../src/records/abandoned.js'
import { poolOf } from '../src/records/database.js'
import { openRecords, startAcademy } from './harness.js'

let records: DataSource
beforeAll(async () => {
  const academy = await startAcademy()
  records = await openRecords(academy)
  cancelAbandoned(poolOf(records), poolOf(await openRecords(academy)))
})

const request = { raw: { destroyed: false } } as FastifyRequest
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: unknown) => toRefusal(error, request).code,
  )

describe('a reader who has gone', () => {
  it('before the next statement is no fault of ours, though the library wraps it up', async () => {
    const gone = new AbortController()
    gone.abort(new Abandoned())
    expect(await codeOf(readFor(gone.signal, () => records.query('select 1')))).toBe('request.cut_off')
  })

  it('is told from one who waits', async () => {
    const waits = new AbortController()
    expect(await codeOf(readFor(waits.signal, () => records.query('select 1')))).toBe('done')
  })
})
