import type { CourseRole } from '@bathyscribe/core/identity'
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

export class PeopleRecords {
  constructor(private readonly manager: EntityManager) {}

  byId(id: string): Promise<PersonRecord | null> {
    return this.manager.findOneBy(PersonRecord, { id })
  }

  /** By identifier or user name. */
  byRef(ref: string): Promise<PersonRecord | null> {
    return this.manager.findOneBy(PersonRecord, named(ref))
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

  async list(search: string | undefined, limit: number, cursor: string | undefined): Promise<Page<PersonRecord>> {
    const query = this.manager
      .createQueryBuilder(PersonRecord, 'p')
      .orderBy('p.fullName')
      .addOrderBy('p.id')
      .take(limit + 1)
    if (search)
      query.andWhere('(p.full_name ilike :like or p.username ilike :like or p.email ilike :like)', {
        like: likePattern(search),
      })
    const after = readCursor(cursor, 2)
    if (after) query.andWhere('(p.full_name, p.id) > (:name, :id)', { name: after[0], id: after[1] })
    return toPage(await query.getMany(), limit, (last) => [last.fullName, last.id])
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
