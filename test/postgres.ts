import { rmSync } from 'node:fs'
import { resolve } from 'node:path'
import { migrateRecords, onRecords, Settings } from '@bathyscribe/service'
import { createKeyring } from '../packages/service/src/desk/platform/keyring.js'
import { readKeys } from '../packages/service/src/keys/key-file.js'
import { Records } from '../packages/service/src/records/index.js'
import { removePostgres, startPostgres } from '@bathyscribe/yard/machine/postgres'
import { databaseOn, onServer, TEMPLATE, TEST_SCHEMA } from './template.js'

/** One throw-away server for all test files, with one migrated database, the platform's keys in it, that each takes a copy of. Durability is nothing to tests. */
export default async function setup(project: {
  provide: (key: 'databaseUrl' | 'keyFile', value: string) => void
}): Promise<() => void> {
  const folder = `.run/test-postgres-${process.pid}`
  const { url } = await startPostgres(folder, {
    settings: { fsync: 'off', full_page_writes: 'off', synchronous_commit: 'off', max_connections: '200' },
  })
  const keyFile = resolve(`.run/test-keys-${process.pid}.json`)
  await onServer(url, `create database ${TEMPLATE}`)
  const settings = Settings.parse({
    publicUrl: 'http://localhost',
    databaseUrl: databaseOn(url, TEMPLATE),
    databaseSchema: TEST_SCHEMA,
    keyFile,
  })
  await migrateRecords(settings)
  await makePlatformKeys(settings)
  project.provide('databaseUrl', url)
  project.provide('keyFile', keyFile)
  return () => {
    removePostgres(folder)
    rmSync(keyFile, { force: true })
  }
}

/** Each of two hundred academies would otherwise begin by looking for four large primes. */
function makePlatformKeys(settings: Settings): Promise<unknown> {
  return onRecords(settings, ({ manager }) => {
    const keyUses = { note: () => undefined, close: async () => undefined }
    const clock = { now: () => new Date() }
    return createKeyring({ records: new Records(manager), keys: readKeys(settings.keyFile), clock, keyUses }).list()
  })
}

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string
    keyFile: string
  }
}
