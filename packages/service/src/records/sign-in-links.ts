import type { EntityManager } from 'typeorm'

export interface InvitedPerson {
  id: string
  username: string
  fullName: string
  email: string | null
  hasPassword: boolean
}
export interface SignInLinkRow {
  personId: string
  codeHash: Buffer
  codeSealed: Buffer | null
  madeAt: Date
  expiresAt: Date
}
export interface LinkToMail {
  personId: string
  username: string
  fullName: string
  email: string | null
  codeSealed: Buffer
  expiresAt: Date
  tries: number
}

/** Links by which people set a password of their own. */
export class SignInLinkRecords {
  constructor(private readonly manager: EntityManager) {}

  /**
   * Whom links may be made for: open accounts of people, by name.
   * @param scope those who are named, else those of a course, else everybody without a password who is no administrator
   */
  people(scope: {
    refs?: readonly string[] | undefined
    courseId?: string | undefined
    most: number
  }): Promise<InvitedPerson[]> {
    return this.manager.query(
      `select p.id, p.username, p.full_name as "fullName", p.email, p.password_hash is not null as "hasPassword" from person p
       where p.closed_at is null and not p.is_test_learner and case
         when $1::text[] is not null then p.id = any($1) or p.username = any($1)
         when $2::text is not null then p.site_role <> 'administrator' and exists (select 1 from enrolment e where e.course_id = $2 and e.person_id = p.id and e.state = 'active')
         else p.password_hash is null and p.site_role <> 'administrator' end
       order by p.full_name, p.id limit $3`,
      [scope.refs?.map((one) => one.toLowerCase()) ?? null, scope.courseId ?? null, scope.most],
    )
  }

  /** Each person’s newest link is the only one. One statement. */
  async put(links: readonly SignInLinkRow[]): Promise<void> {
    await this.manager.query(
      `insert into sign_in_link (person_id, code_hash, code_sealed, made_at, expires_at, try_at)
       select x.*, case when x.code_sealed is not null then x.made_at end
       from unnest($1::text[], $2::bytea[], $3::bytea[], $4::timestamptz[], $5::timestamptz[]) as x (person_id, code_hash, code_sealed, made_at, expires_at)
       on conflict (person_id) do update set code_hash = excluded.code_hash, code_sealed = excluded.code_sealed, made_at = excluded.made_at,
         expires_at = excluded.expires_at, tries = 0, try_at = excluded.try_at, failure = null`,
      [
        links.map((one) => one.personId),
        links.map((one) => one.codeHash),
        links.map((one) => one.codeSealed),
        links.map((one) => one.madeAt),
        links.map((one) => one.expiresAt),
      ],
    )
  }

  /** Whose link this is, while it is good. */
  async holder(codeHash: Buffer, now: Date): Promise<{ personId: string; expiresAt: Date } | undefined> {
    const [row] = await this.manager.query<{ personId: string; expiresAt: Date }[]>(
      `select person_id as "personId", expires_at as "expiresAt" from sign_in_link where code_hash = $1 and expires_at > $2`,
      [codeHash, now],
    )
    return row
  }

  /** Uses a link up; true for exactly one caller. */
  async use(codeHash: Buffer, now: Date): Promise<boolean> {
    const [rows] = await this.manager.query<[unknown[], number]>(
      `delete from sign_in_link where code_hash = $1 and expires_at > $2 returning 1 as used`,
      [codeHash, now],
    )
    return rows.length === 1
  }

  /** Ends the link of a person whose password was set otherwise. */
  async drop(personId: string): Promise<void> {
    await this.manager.query(`delete from sign_in_link where person_id = $1`, [personId])
  }

  /** Links to be mailed now, taken until `until`, so that no other process mails them meanwhile. */
  async takeToMail(now: Date, until: Date, most: number): Promise<LinkToMail[]> {
    const [rows] = await this.manager.query<[LinkToMail[], number]>(
      `with taken as (select person_id from sign_in_link where code_sealed is not null and try_at <= $1 and expires_at > $1
         order by try_at, person_id limit $3 for update skip locked)
       update sign_in_link l set try_at = $2, tries = l.tries + 1 from taken t, person p where t.person_id = l.person_id and p.id = l.person_id
       returning p.id as "personId", p.username, p.full_name as "fullName", p.email, l.code_sealed as "codeSealed", l.expires_at as "expiresAt", l.tries::int`,
      [now, until, most],
    )
    return rows
  }

  /** What became of a mail; `tryAt` null gives it up, and the sealed code goes. */
  async noteMail(
    personId: string,
    codeSealed: Buffer,
    result: { failure: string | null; tryAt: Date | null },
  ): Promise<void> {
    await this.manager.query(
      `update sign_in_link set failure = $3, try_at = $4, code_sealed = case when $4::timestamptz is null then null else code_sealed end
       where person_id = $1 and code_sealed = $2`,
      [personId, codeSealed, result.failure, result.tryAt],
    )
  }
}
