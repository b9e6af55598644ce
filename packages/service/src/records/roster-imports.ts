import type { EntityManager } from 'typeorm'
import type { CourseRecord } from './entities/courses.js'

export interface PersonToImport {
  key: string
  id: string
  subject: string
  sourcedId: string
  /** What the roster calls the person, in one spelling. */
  stated: string
  username: string
  /** Whether the roster says this very user name; another was made up here. */
  exact: boolean
  givenName: string
  familyName: string
  fullName: string
  email: string | null
}
export type RosterCourse = Pick<
  CourseRecord,
  'id' | 'code' | 'title' | 'state' | 'term' | 'timeZone' | 'startsAt' | 'endsAt'
>
export interface PlaceToImport {
  course: string
  person: string
  role: string
  active: boolean
}
export interface ToolRosterRow {
  tool: { id: string; slug: string; name: string; state: 'enabled' }
  readAt: Date | null
  learners: number
  launched: number
  scored: number
  unheard: { id: string; fullName: string; username: string }[]
  keeps: { id: string; fullName: string; username: string }[]
}

/** People at most that are named for what is wrong with them. */
export const MOST_NAMED = 200

/** Whole rosters at once: a few statements, however many people there are. */
export class RosterImportRecords {
  constructor(private readonly manager: EntityManager) {}

  /** One import at a time, so that two of the same file do not wait for each other in a circle. */
  async lock(): Promise<void> {
    await this.manager.query(`select pg_advisory_xact_lock(hashtext('bathyscribe roster import'))`)
  }

  /** Courses by the identifiers that classes have elsewhere, or by their codes. */
  async courses(keys: readonly { sourcedId: string; codeKey: string }[]): Promise<Map<string, RosterCourse>> {
    const rows = await this.manager.query<(RosterCourse & { key: string })[]>(
      `select distinct on (x.sourced_id) x.sourced_id as key, c.id, c.code, c.title, c.state, c.term, c.time_zone as "timeZone",
         c.starts_at as "startsAt", c.ends_at as "endsAt" from unnest($1::text[], $2::text[]) as x(sourced_id, code_key)
       join course c on c.sourced_id = x.sourced_id or c.code_key = x.code_key or c.id = x.sourced_id order by x.sourced_id, c.sourced_id = x.sourced_id desc`,
      [keys.map((one) => one.sourcedId), keys.map((one) => one.codeKey)],
    )
    return new Map(rows.map(({ key, ...course }) => [key, course]))
  }

  /** Lays the people of a roster beside the records for the length of the transaction. */
  async stagePeople(all: readonly PersonToImport[]): Promise<void> {
    await this.manager.query(
      `create temporary table staged_person (key text, sourced_id text, stated text, username text, exact boolean, given text, family text, full_name text, email text, id text, subject text,
         person_id text, held text) on commit drop`,
    )
    await this.manager.query(
      `insert into staged_person (key, sourced_id, stated, username, exact, given, family, full_name, email, id, subject)
       select * from unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::boolean[], $6::text[], $7::text[], $8::text[], $9::text[], $10::text[], $11::text[])`,
      [
        all.map((one) => one.key),
        all.map((one) => one.sourcedId || null),
        all.map((one) => one.stated),
        all.map((one) => one.username),
        all.map((one) => one.exact),
        all.map((one) => one.givenName),
        all.map((one) => one.familyName),
        all.map((one) => one.fullName),
        all.map((one) => one.email),
        all.map((one) => one.id),
        all.map((one) => one.subject),
      ],
    )
  }

  /**
   * Changes the staged people who are known here and makes the others. Known is who has the sourced identifier, else who was called the same by a roster
   * before, else who has the very user name or, where the roster says no more, alone has the address. A user name that was made up here ties nobody.
   * Two rows are never one person: the second is held back.
   */
  async people(): Promise<{
    made: number
    changed: number
    known: Map<string, string>
    held: { key: string; why: string }[]
  }> {
    await this.recognise()
    const [, changed] = await this.manager.query<[unknown, number]>(
      `update person p set sourced_id = coalesce(x.sourced_id, p.sourced_id), given_name = coalesce(nullif(x.given, ''), p.given_name),
         family_name = coalesce(nullif(x.family, ''), p.family_name), full_name = coalesce(nullif(x.full_name, ''), p.full_name), email = coalesce(nullif(x.email, ''), p.email)
       from staged_person x where p.id = x.person_id and not p.is_test_learner and (coalesce(x.sourced_id, p.sourced_id), coalesce(nullif(x.given, ''), p.given_name),
         coalesce(nullif(x.family, ''), p.family_name), coalesce(nullif(x.full_name, ''), p.full_name), coalesce(nullif(x.email, ''), p.email))
         is distinct from (p.sourced_id, p.given_name, p.family_name, p.full_name, p.email)`,
    )
    await this.giveFreeNames()
    const rows = await this.manager.query<unknown[]>(
      `insert into person (id, subject, sourced_id, roster_name, username, given_name, family_name, full_name, email, created_at)
       select id, subject, sourced_id, case when sourced_id is null or exact then stated end, username, given, family, coalesce(nullif(full_name, ''), username),
         nullif(email, ''), now()
       from staged_person where person_id is null and held is null order by key on conflict do nothing returning 1`,
    )
    await this.manager.query(
      `update staged_person x set person_id = p.id from person p where p.id = x.id and x.person_id is null and x.held is null`,
    )
    const all = await this.manager.query<{ key: string; username: string; id: string | null; held: string | null }[]>(
      `select key, username, person_id as id, held from staged_person`,
    )
    return {
      made: rows.length,
      changed,
      known: new Map(all.flatMap(({ key, id }) => (id === null ? [] : [[key, id]]))),
      held: all
        .filter(({ id }) => id === null)
        .slice(0, MOST_NAMED)
        .map(({ key, username, held }) => ({ key, why: held ?? `the user name ${username} is somebody else’s` })),
    }
  }

  private async recognise(): Promise<void> {
    await this.manager.query(`
      update staged_person x set person_id = coalesce(
        (select p.id from person p where p.sourced_id = x.sourced_id limit 1),
        (select p.id from person p where p.roster_name = x.stated and (p.sourced_id is null or x.sourced_id is null)),
        (select p.id from person p where x.exact and p.username = x.username and (p.sourced_id is null or x.sourced_id is null)
           and (p.roster_name is null or p.roster_name = x.stated)),
        (select min(p.id) from person p where x.sourced_id is null and x.stated like '%@%' and lower(p.email) = x.stated having count(*) = 1))`)
    await this.manager.query(`
      update staged_person x set held = 'several people here have the address ' || x.stated || ': give the roster a user name or a sourcedId for each'
      where x.person_id is null and x.sourced_id is null and x.stated like '%@%' and exists (select 1 from person p where lower(p.email) = x.stated)`)
    // A row may say by one column what another row says by another; whose it is cannot be told from here.
    await this.manager.query(`
      update staged_person x set person_id = null, held = 'is the same account as the row ' || d.first || ' of this roster: one of them is wrong'
      from (select key, row_number() over w as n, first_value(key) over w as first from staged_person where person_id is not null
            window w as (partition by person_id order by sourced_id is null, key)) d
      where d.key = x.key and d.n > 1`)
  }

  /** User names that were made up are numbered where they are taken: by who is here, or by the same roster. */
  private async giveFreeNames(): Promise<void> {
    const made = await this.manager.query<{ key: string; username: string; exact: boolean }[]>(
      `select key, username, exact from staged_person where person_id is null and held is null order by exact desc, key`,
    )
    const bases = [...new Set(made.filter(({ exact }) => !exact).map(({ username }) => username))]
    if (bases.length === 0) return
    const there = await this.manager.query<{ username: string }[]>(
      `select username from person where username = any($1) or regexp_replace(username, '-[0-9]+$', '') = any($1)`,
      [bases],
    )
    const taken = new Set(there.map(({ username }) => username))
    const next = new Map<string, number>()
    const renamed: { key: string; username: string }[] = []
    for (const { key, username, exact } of made) {
      let free = username
      if (!exact)
        for (let n = next.get(username) ?? 2; taken.has(free); n++) {
          free = `${username}-${n}`
          next.set(username, n + 1)
        }
      taken.add(free)
      if (free !== username) renamed.push({ key, username: free })
    }
    await this.manager.query(
      `update staged_person x set username = n.username from unnest($1::text[], $2::text[]) as n (key, username) where n.key = x.key`,
      [renamed.map(({ key }) => key), renamed.map(({ username }) => username)],
    )
  }

  /** People by what a roster calls them, where the roster itself does not say who they are. */
  async bySourcedId(keys: readonly string[]): Promise<Map<string, string>> {
    if (keys.length === 0) return new Map()
    const rows = await this.manager.query<{ key: string; id: string }[]>(
      `select sourced_id as key, id from person where sourced_id = any($1)`,
      [keys],
    )
    return new Map(rows.map(({ key, id }) => [key, id]))
  }

  /**
   * Puts people into courses, or out of them: one statement, each place once.
   * @param whole courses whose roster is whole: who came there by a roster and is not named any more is dropped, too; who was put in by hand stays
   */
  async place(
    places: readonly PlaceToImport[],
    options: { whole: readonly string[]; at: Date },
  ): Promise<{ added: number; returned: number; dropped: number }> {
    const [row] = await this.manager.query<{ added: number; returned: number; dropped: number }[]>(
      `with given as materialized (
         select * from unnest($2::text[], $3::text[], $4::text[], $5::boolean[]) as g (course_id, person_id, role, active)
       ), put as (
         insert into enrolment (course_id, person_id, role, state, since) select course_id, person_id, role, 'active', $1 from given where active
         on conflict (course_id, person_id) do update set role = excluded.role, state = 'active', dropped_at = null
         where (enrolment.role, enrolment.state) is distinct from (excluded.role, 'active') and enrolment.role <> 'test_learner'
         returning xmax = 0 as made
       ), gone as (
         update enrolment e set state = 'dropped', dropped_at = $1 from given g
         where not g.active and e.course_id = g.course_id and e.person_id = g.person_id and e.state = 'active' returning 1
       ), unnamed as (
         update enrolment e set state = 'dropped', dropped_at = $1 from person p
         where p.id = e.person_id and e.course_id = any($6) and e.state = 'active' and e.role <> 'test_learner' and p.sourced_id is not null
           and not exists (select 1 from given g where g.course_id = e.course_id and g.person_id = e.person_id) returning 1
       )
       select (select count(*) filter (where made) from put)::int as added, (select count(*) filter (where not made) from put)::int as returned,
         ((select count(*) from gone) + (select count(*) from unnamed))::int as dropped`,
      [
        options.at,
        places.map((one) => one.course),
        places.map((one) => one.person),
        places.map((one) => one.role),
        places.map((one) => one.active),
        options.whole,
      ],
    )
    return row!
  }

  /** What each tool of a course knows of its people. One query. */
  toolRosters(courseId: string): Promise<ToolRosterRow[]> {
    const refs = `json_agg(json_build_object('id', k.id, 'fullName', k.full_name, 'username', k.username) order by k.full_name)`
    return this.manager.query(
      `with tools as (
         select registration_id as id from course_tool where course_id = $1 union select registration_id from assignment where course_id = $1 and state <> 'deleted'
         union select registration_id from menu_entry where course_id = $1 union select registration_id from unit_item where course_id = $1 and registration_id is not null
       ), known as (
         select t.id as tool_id, p.id, p.full_name, p.username, e.role, e.state,
           exists (select 1 from visit v join assignment a on a.id = v.assignment_id where a.registration_id = t.id and a.course_id = $1 and v.person_id = p.id) as launched,
           exists (select 1 from result r join assignment a on a.id = r.assignment_id where a.registration_id = t.id and a.course_id = $1 and r.person_id = p.id
             and r.score_id is not null) as scored,
           rr.watermark is not null and (e.state = 'active' and e.changed < rr.watermark) as in_roster,
           rr.watermark is not null and e.changed >= rr.watermark as news
         from tools t join enrolment e on e.course_id = $1 and e.role = 'learner' join person p on p.id = e.person_id
         left join roster_reading rr on rr.registration_id = t.id and rr.course_id = $1
       )
       select json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool, rr.at as "readAt",
         count(k.id) filter (where k.state = 'active')::int as learners, count(k.id) filter (where k.launched and k.state = 'active')::int as launched,
         count(k.id) filter (where k.scored and k.state = 'active')::int as scored,
         coalesce(${refs} filter (where k.state = 'active' and not k.launched and not k.scored and not k.in_roster), '[]') as unheard,
         coalesce(${refs} filter (where k.state = 'dropped' and (k.launched or k.scored or k.news)
           and (rr.at is null or k.news)), '[]') as keeps
       from tools t join registration r on r.id = t.id left join known k on k.tool_id = t.id
       left join roster_reading rr on rr.registration_id = t.id and rr.course_id = $1
       where r.state in ('enabled', 'suspended') group by r.id, rr.at order by r.name, r.id`,
      [courseId],
    )
  }
}
