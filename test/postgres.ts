import { removePostgres, startPostgres } from '../scripts/lib/postgres.mjs'

/** One throw-away server for all test files; each takes a schema of its own. Durability is nothing to tests. */
export default async function setup(project: {
  provide: (key: 'databaseUrl', value: string) => void
}): Promise<() => void> {
  const folder = `.run/test-postgres-${process.pid}`
  const { url } = await startPostgres(folder, { settings: { fsync: 'off', max_connections: '200' } })
  project.provide('databaseUrl', url)
  return () => removePostgres(folder)
}

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string
  }
}
