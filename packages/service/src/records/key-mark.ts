import type { DataSource } from 'typeorm'

/** A value that was sealed under the key file, and what it is bound to. */
export interface Sealed {
  sealed: Buffer
  about: string
}

/** What each kind of value is bound to; tools' secrets are to the identifier of their registration. */
export const SEALED_FOR = {
  office: 'records office',
  signInLink: 'sign-in link',
  idToken: 'ID token',
  /** Before its identifier. */
  identityProvider: 'identity provider ',
  /** Before its key identifier. */
  platformKey: 'platform key ',
} as const

/** By what the key file is known that these records were made with; undefined as long as there is none. */
export async function keyMark(database: DataSource): Promise<string | undefined> {
  const [there] = await database.query<{ there: string | null }[]>(`select to_regclass('key_mark')::text as there`)
  if (!there?.there) return undefined
  return (await database.query<{ mark: string }[]>(`select mark from key_mark where id = 1`))[0]?.mark
}

/** Keeps the mark unless there is one: of two processes that begin at once the first one’s stands. */
export async function setKeyMark(database: DataSource, mark: string): Promise<void> {
  await database.query(`insert into key_mark (id, mark) values (1, $1) on conflict (id) do nothing`, [mark])
}

/** The newest sealed values, as many kinds as there are. Records that were never migrated have none. */
export async function sealedSamples(database: DataSource): Promise<Sealed[]> {
  const [there] = await database.query<{ tools: string | null; keys: string | null }[]>(
    `select to_regclass('registration')::text as tools, to_regclass('platform_key')::text as keys`,
  )
  const tools = there?.tools
    ? await database.query<Sealed[]>(
        `select secret_sealed as sealed, id as about from registration where secret_sealed is not null order by secret_set_at desc nulls last limit 1`,
      )
    : []
  const keys = there?.keys
    ? await database.query<Sealed[]>(
        `select sealed, '${SEALED_FOR.platformKey}' || kid as about from platform_key order by made_at desc limit 1`,
      )
    : []
  return [...tools, ...keys]
}
