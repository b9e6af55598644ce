import { Refusal, type PEOPLE_PARTS, type ToolState } from '@bathyscribe/contract'
import type { CourseRole, Disclosure } from '@bathyscribe/core/identity'
import type { EntityManager } from 'typeorm'
import { EnrolmentRecord, PersonRecord } from './entities/people.js'
import { likePattern, readCursor, toPage, type Page } from './paging.js'
import { plannedOnce } from './planned-once.js'

/** A person in a course, with the role. */
export interface MemberRow {
  person: PersonRecord
  enrolment: EnrolmentRecord
}

/** By identifier or user name. */
const named = (ref: string) => [{ id: ref }, { username: ref.toLowerCase() }]

type PeoplePart = (typeof PEOPLE_PARTS)[number]

const PARTS: Readonly<Record<PeoplePart, string>> = {
  administrators: `p.site_role = 'administrator'`,
  without_password: 'p.password_hash is null and p.closed_at is null and not p.is_test_learner',
  closed: 'p.closed_at is not null',
  in_no_course: `not p.is_test_learner and not exists (select 1 from enrolment e where e.person_id = p.id and e.state = 'active')`,
}

/** A course that a person is or was in. */
export interface PlaceRow {
  course: { id: string; code: string; title: string }
  role: CourseRole
  state: 'active' | 'dropped'
  since: Date
  droppedAt: Date | null
}

const COURSES_OF = `
select json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course, e.role, e.state, e.since, e.dropped_at as "droppedAt"
from enrolment e join course c on c.id = e.course_id where e.person_id = $1 and c.state <> 'deleted' order by c.code_key, c.id`

/** A tool that a person has opened work in. */
export interface MetRow {
  tool: { id: string; slug: string; name: string; state: ToolState }
  disclosure: Disclosure
  assignments: number
  launches: number
  firstAt: Date
  lastAt: Date
}

// Visits are kept by assignment: so they are looked for in the courses that the person is or was in.
const TOOLS_THAT_MET = `
select json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool, r.disclosure,
  count(*)::int as assignments, sum(v.launches)::int as launches, min(v.first_at) as "firstAt", max(v.last_at) as "lastAt"
from enrolment e join assignment a on a.course_id = e.course_id join visit v on v.assignment_id = a.id and v.person_id = e.person_id
  join registration r on r.id = a.registration_id
where e.person_id = $1 group by r.id order by lower(r.name), r.id`

const FREE_USERNAME = `
select x.name from (select 1 as n, $1::text as name union all select n, $1 || '-' || n from generate_series(2, 2000) n) x
where not exists (select 1 from person p where p.username = x.name) order by x.n limit 1`

export class PeopleRecords {
  constructor(private readonly manager: EntityManager) {}

  byId(id: string): Promise<PersonRecord | null> {
    return this.manager.findOneBy(PersonRecord, { id })
  }

  /** By identifier or user name. */
  byRef(ref: string): Promise<PersonRecord | null> {
    return this.manager.findOneBy(PersonRecord, named(ref))
  }

  /** The same of somebody who has to be there. @throws Refusal */
  async known(ref: string): Promise<PersonRecord> {
    const person = await this.byRef(ref)
    if (!person) throw new Refusal('person.not_found', ref)
    return person
  }

  /** The same, and nobody else changes the person until the end of the transaction. */
  lockByRef(ref: string): Promise<PersonRecord | null> {
    return this.manager.findOne(PersonRecord, {
      where: named(ref),
      lock: { mode: 'pessimistic_write' },
    })
  }

  byUsername(username: string): Promise<PersonRecord | null> {
    return this.manager.findOneBy(PersonRecord, { username })
  }

  /** A user name that nobody has: the wanted one, or with the first number behind it that makes it one. */
  async freeUsername(wanted: string): Promise<string> {
    const [row] = await this.manager.query<{ name: string }[]>(FREE_USERNAME, [wanted])
    return row?.name ?? wanted
  }

  async insert(person: PersonRecord): Promise<void> {
    await this.manager.insert(PersonRecord, person)
  }

  async update(id: string, change: Partial<PersonRecord>): Promise<void> {
    if (Object.keys(change).length > 0) await this.manager.update(PersonRecord, { id }, change)
  }

  /** Locks the administrators, so that two changes at once cannot both remove "the other one". */
  async openAdministrators(): Promise<string[]> {
    const rows = await this.manager.query<{ id: string }[]>(
      `select id from person where site_role = 'administrator' and closed_at is null order by id for update`,
    )
    return rows.map((row) => row.id)
  }

  async hasAdministrator(): Promise<boolean> {
    return this.manager.existsBy(PersonRecord, { siteRole: 'administrator' })
  }

  async list(
    { search, only }: { search?: string | undefined; only?: PeoplePart | undefined },
    limit: number,
    cursor: string | undefined,
  ): Promise<Page<PersonRecord>> {
    const query = this.manager
      .createQueryBuilder(PersonRecord, 'p')
      .orderBy('p.fullName')
      .addOrderBy('p.id')
      .take(limit + 1)
    if (search)
      query.andWhere('(p.full_name ilike :like or p.username ilike :like or p.email ilike :like)', {
        like: likePattern(search),
      })
    if (only) query.andWhere(PARTS[only])
    const after = readCursor(cursor, 2)
    if (after) query.andWhere('(p.full_name, p.id) > (:name, :id)', { name: after[0], id: after[1] })
    return toPage(await query.getMany(), limit, (last) => [last.fullName, last.id])
  }

  /** Where a person is: courses by code, and tools by name. Two statements, however many there are. */
  async places(personId: string): Promise<{ courses: PlaceRow[]; tools: MetRow[] }> {
    return {
      courses: await this.manager.query<PlaceRow[]>(COURSES_OF, [personId]),
      tools: await this.manager.query<MetRow[]>(TOOLS_THAT_MET, [personId]),
    }
  }

  async members(
    courseId: string,
    options: { search?: string | undefined; limit: number; cursor?: string | undefined },
  ): Promise<Page<MemberRow>> {
    const query = this.manager
      .createQueryBuilder(PersonRecord, 'p')
      .innerJoinAndMapOne('p.enrolment', EnrolmentRecord, 'e', 'e.person_id = p.id and e.course_id = :courseId', {
        courseId,
      })
      .orderBy('p.fullName')
      .addOrderBy('p.id')
      .limit(options.limit + 1)
    if (options.search)
      query.andWhere('(p.full_name ilike :like or p.username ilike :like)', { like: likePattern(options.search) })
    const after = readCursor(options.cursor, 2)
    if (after) query.andWhere('(p.full_name, p.id) > (:name, :id)', { name: after[0], id: after[1] })
    const rows = (await query.getMany()) as (PersonRecord & { enrolment: EnrolmentRecord })[]
    const members = rows.map((person) => ({ person, enrolment: person.enrolment }))
    return toPage(members, options.limit, (last) => [last.person.fullName, last.person.id])
  }

  /** The person whom tools know by a subject. */
  async idOfSubject(subject: string): Promise<string | undefined> {
    const found = await this.manager.findOne(PersonRecord, { where: { subject }, select: { id: true } })
    return found?.id
  }

  /** People by identifiers, as they are referred to. */
  refs(ids: readonly string[]): Promise<{ id: string; fullName: string; username: string }[]> {
    return this.manager.query(`select id, full_name as "fullName", username from person where id = any($1)`, [ids])
  }

  enrolment(courseId: string, personId: string): Promise<EnrolmentRecord | null> {
    return this.manager.findOneBy(EnrolmentRecord, { courseId, personId })
  }

  /** Somebody of a course, in whatever role and state. @throws Refusal `enrolment.not_found` */
  async memberByRef(courseId: string, ref: string): Promise<{ person: PersonRecord; enrolment: EnrolmentRecord }> {
    const person = await this.byRef(ref)
    const enrolment = person && (await this.enrolment(courseId, person.id))
    if (!person || !enrolment) throw new Refusal('enrolment.not_found', ref.slice(0, 100))
    return { person, enrolment }
  }

  async enrol(enrolment: EnrolmentRecord): Promise<void> {
    await this.manager.upsert(EnrolmentRecord, enrolment, ['courseId', 'personId'])
  }

  async setEnrolment(courseId: string, personId: string, change: Partial<EnrolmentRecord>): Promise<void> {
    await this.manager.update(EnrolmentRecord, { courseId, personId }, change)
  }

  /** Active people of one role in a course, earliest first. */
  async ofRole(courseId: string, roles: readonly CourseRole[]): Promise<PersonRecord[]> {
    return this.manager
      .createQueryBuilder(PersonRecord, 'p')
      .innerJoin(EnrolmentRecord, 'e', `e.person_id = p.id and e.course_id = :courseId and e.state = 'active'`, {
        courseId,
      })
      .where('e.role in (:...roles)', { roles })
      .andWhere('p.closed_at is null')
      .orderBy('e.since')
      .addOrderBy('p.id')
      .getMany()
  }

  /** Who has had a role in a course the longest, of the accounts that are open. */
  async firstOfRole(
    courseId: string,
    role: CourseRole,
  ): Promise<{ id: string; fullName: string; username: string } | undefined> {
    const [row] = await this.manager.query<{ id: string; fullName: string; username: string }[]>(
      plannedOnce(
        `select p.id, p.full_name as "fullName", p.username from enrolment e join person p on p.id = e.person_id
         where e.course_id = $1 and e.state = 'active' and e.role = $2 and p.closed_at is null order by e.since, p.id limit 1`,
      ),
      [courseId, role],
    )
    return row
  }

  /** The courses in which a person has an active role; deleted ones are none. */
  rolesOf(personId: string): Promise<{ courseId: string; role: CourseRole }[]> {
    return this.manager.query(
      `select e.course_id as "courseId", e.role from enrolment e join course c on c.id = e.course_id
       where e.person_id = $1 and e.state = 'active' and c.state <> 'deleted'`,
      [personId],
    )
  }
}
