import { rmSync } from 'node:fs'
import { resolve } from 'node:path'
import { migrateRecords, Settings } from '@bathyscribe/service'
import { removePostgres, startPostgres } from '../scripts/lib/postgres.mjs'
import { databaseOn, onServer, TEMPLATE, TEST_SCHEMA } from './template.js'

/** One throw-away server for all test files, with one migrated database that each takes a copy of. Durability is nothing to tests. */
export default async function setup(project: {
  provide: (key: 'databaseUrl' | 'keyFile', value: string) => void
}): Promise<() => void> {
  const folder = `.run/test-postgres-${process.pid}`
  const { url } = await startPostgres(folder, {
    settings: { fsync: 'off', full_page_writes: 'off', synchronous_commit: 'off', max_connections: '200' },
  })
  const keyFile = resolve(`.run/test-keys-${process.pid}.json`)
  await onServer(url, `create database ${TEMPLATE}`)
  await migrateRecords(
    Settings.parse({
      publicUrl: 'http://localhost',
      databaseUrl: databaseOn(url, TEMPLATE),
      databaseSchema: TEST_SCHEMA,
      keyFile,
    }),
  )
  project.provide('databaseUrl', url)
  project.provide('keyFile', keyFile)
  return () => {
    removePostgres(folder)
    rmSync(keyFile, { force: true })
  }
}

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string
    keyFile: string
  }
}
