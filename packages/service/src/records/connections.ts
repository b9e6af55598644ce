import type { EntityManager } from 'typeorm'

export interface ConnectionRow {
  id: string
  tool: { id: string; slug: string; name: string; state: 'enabled' }
  person: { id: string; fullName: string; username: string }
  scopes: string[]
  courses: { id: string; code: string; title: string }[]
  madeAt: Date
  lastUsedAt: Date | null
  revokedAt: Date | null
  revokedBy: 'person' | 'administrator' | 'tool' | 'misuse' | null
}
export interface GrantRow {
  connectionId: string
  scopes: string[]
  redirectUri: string | null
  challenge: string | null
  expiresAt: Date
  usedAt: Date | null
  revokedAt: Date | null
}

const LIST = `
select k.id, json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
  json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) as person, k.scopes,
  coalesce((select json_agg(json_build_object('id', c.id, 'code', c.code, 'title', c.title) order by c.code) from connection_course x join course c on c.id = x.course_id
    where x.connection_id = k.id), '[]') as courses,
  k.made_at as "madeAt", k.last_used_at as "lastUsedAt", k.revoked_at as "revokedAt", k.revoked_by as "revokedBy"
from connection k join registration r on r.id = k.registration_id join person p on p.id = k.person_id`

/** Connections of tools, and what they are opened by. */
export class ConnectionRecords {
  constructor(private readonly manager: EntityManager) {}

  async insert(row: {
    id: string
    registrationId: string
    personId: string
    scopes: readonly string[]
    courseIds: readonly string[]
    madeAt: Date
  }): Promise<void> {
    await this.manager.query(
      `insert into connection (id, registration_id, person_id, scopes, made_at) values ($1, $2, $3, $4, $5)`,
      [row.id, row.registrationId, row.personId, row.scopes, row.madeAt],
    )
    await this.manager.query(
      `insert into connection_course (connection_id, course_id) select $1, x from unnest($2::text[]) as x order by x`,
      [row.id, row.courseIds],
    )
  }

  async addGrant(row: {
    fingerprint: Buffer
    connectionId: string
    kind: 'code' | 'refresh'
    redirectUri: string | null
    challenge: string | null
    expiresAt: Date
  }): Promise<void> {
    await this.manager.query(
      `insert into connection_grant (fingerprint, connection_id, kind, redirect_uri, challenge, expires_at) values ($1, $2, $3, $4, $5, $6)`,
      [row.fingerprint, row.connectionId, row.kind, row.redirectUri, row.challenge, row.expiresAt],
    )
  }

  /** A code or refresh token of a tool, used up by this look at it; another tool's is not touched. `usedAt` says when it was used before. */
  async useGrant(
    fingerprint: Buffer,
    kind: 'code' | 'refresh',
    registrationId: string,
    at: Date,
  ): Promise<GrantRow | undefined> {
    const [row] = await this.manager.query<GrantRow[]>(
      `with before as (select g.* from connection_grant g join connection k on k.id = g.connection_id
           where g.fingerprint = $1 and g.kind = $2 and k.registration_id = $3 for update of g),
         used as (update connection_grant g set used_at = coalesce(g.used_at, $4) from before b where g.fingerprint = b.fingerprint)
       select b.connection_id as "connectionId", k.scopes, b.redirect_uri as "redirectUri", b.challenge, b.expires_at as "expiresAt",
         b.used_at as "usedAt", k.revoked_at as "revokedAt"
       from before b join connection k on k.id = b.connection_id`,
      [fingerprint, kind, registrationId, at],
    )
    return row
  }

  /** Whose token it is; it is not used up. */
  async connectionOfGrant(fingerprint: Buffer): Promise<{ connectionId: string; registrationId: string } | undefined> {
    const [row] = await this.manager.query<{ connectionId: string; registrationId: string }[]>(
      `select g.connection_id as "connectionId", k.registration_id as "registrationId" from connection_grant g join connection k on k.id = g.connection_id
       where g.fingerprint = $1`,
      [fingerprint],
    )
    return row
  }

  /** Ends all of a person’s. */
  async revokeAll(personId: string, by: NonNullable<ConnectionRow['revokedBy']>, at: Date): Promise<void> {
    await this.manager.query(
      `update connection set revoked_at = $3, revoked_by = $2 where person_id = $1 and revoked_at is null`,
      [personId, by, at],
    )
  }

  /** @returns whether it was open until now */
  async revoke(id: string, by: NonNullable<ConnectionRow['revokedBy']>, at: Date): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `update connection set revoked_at = $3, revoked_by = $2 where id = $1 and revoked_at is null`,
      [id, by, at],
    )
    return count === 1
  }

  async noteUse(id: string, at: Date): Promise<void> {
    await this.manager.query(`update connection set last_used_at = $2 where id = $1`, [id, at])
  }

  async one(id: string): Promise<ConnectionRow | undefined> {
    const [row] = await this.manager.query<ConnectionRow[]>(`${LIST} where k.id = $1`, [id])
    return row
  }

  /** Those of a person, or of anybody in courses, or of a tool; open ones first. `courseIds` null: all courses. */
  list(filter: {
    personId: string
    courseIds: readonly string[] | null
    registrationId?: string | undefined
  }): Promise<ConnectionRow[]> {
    return this.manager.query(
      `${LIST} where ($3::text is null or k.registration_id = $3) and (k.person_id = $1 or $2::text[] is null
         or exists (select 1 from connection_course x where x.connection_id = k.id and x.course_id = any($2)))
       order by k.revoked_at desc nulls first, k.made_at desc, k.id limit 500`,
      [filter.personId, filter.courseIds, filter.registrationId ?? null],
    )
  }

  /** The courses that a connection still opens: those that its person still teaches. */
  courses(id: string): Promise<{ id: string; code: string; title: string }[]> {
    return this.manager.query(
      `select c.id, c.code, c.title from connection k join connection_course x on x.connection_id = k.id join course c on c.id = x.course_id join person p on p.id = k.person_id
       where k.id = $1 and k.revoked_at is null and c.state <> 'deleted' and p.closed_at is null and (p.site_role = 'administrator' or exists (select 1 from enrolment e
         where e.course_id = c.id and e.person_id = p.id and e.role = 'instructor' and e.state = 'active')) order by c.code`,
      [id],
    )
  }
}
