import { Refusal } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'

export interface GroupSetRow {
  id: string
  name: string
  groups: { id: string; name: string; members: { id: string; fullName: string; username: string }[] }[]
  without: number
}
/** A group with whom it may be shown to tools: members by their opaque subjects. */
export interface GroupRow {
  id: string
  name: string
  setId: string
  setName: string
}

const SETS = `
select s.id, s.name,
  coalesce((select json_agg(json_build_object('id', g.id, 'name', g.name, 'members',
    coalesce((select json_agg(json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) order by p.full_name, p.id)
      from group_member m join person p on p.id = m.person_id where m.group_id = g.id), '[]')) order by g.position, g.name)
    from course_group g where g.set_id = s.id), '[]') as groups,
  (select count(*)::int from enrolment e where e.course_id = s.course_id and e.role = 'learner' and e.state = 'active' and not exists (
    select 1 from group_member m join course_group g on g.id = m.group_id where g.set_id = s.id and m.person_id = e.person_id)) as without
from group_set s`

/** Group sets, groups and who is in them. */
export class GroupRecords {
  constructor(private readonly manager: EntityManager) {}

  sets(courseId: string): Promise<GroupSetRow[]> {
    return this.manager.query(`${SETS} where s.course_id = $1 order by s.created_at, s.id`, [courseId])
  }

  /** @throws Refusal when the course has no such set. */
  async set(courseId: string, id: string): Promise<GroupSetRow> {
    const [row] = await this.manager.query<GroupSetRow[]>(`${SETS} where s.course_id = $1 and s.id = $2`, [
      courseId,
      id,
    ])
    if (!row) throw new Refusal('group.set_not_found', id)
    return row
  }

  async list(courseId: string): Promise<GroupRow[]> {
    return this.manager.query(
      `select g.id, g.name, s.id as "setId", s.name as "setName" from course_group g join group_set s on s.id = g.set_id
       where s.course_id = $1 order by s.name, g.position, g.name`,
      [courseId],
    )
  }

  /** Groups that a person is in, by the subject that tools know the person by. */
  async idsOfSubject(courseId: string, subject: string): Promise<string[]> {
    const rows = await this.manager.query<{ id: string }[]>(
      `select m.group_id as id from group_member m join course_group g on g.id = m.group_id join group_set s on s.id = g.set_id
       join person p on p.id = m.person_id where s.course_id = $1 and p.subject = $2`,
      [courseId, subject],
    )
    return rows.map((row) => row.id)
  }

  async addSet(set: { id: string; courseId: string; name: string; at: Date }): Promise<void> {
    await this.manager.query(`insert into group_set (id, course_id, name, created_at) values ($1, $2, $3, $4)`, [
      set.id,
      set.courseId,
      set.name,
      set.at,
    ])
  }

  async addGroups(
    setId: string,
    groups: readonly { id: string; name: string; members: readonly string[] }[],
  ): Promise<void> {
    await this.manager.query(
      `insert into course_group (id, set_id, name, position) select x.id, $1, x.name,
         coalesce((select max(position) from course_group where set_id = $1), 0) + x.n
       from unnest($2::text[], $3::text[]) with ordinality as x(id, name, n)`,
      [setId, groups.map((one) => one.id), groups.map((one) => one.name)],
    )
    const members = groups.flatMap((group) => group.members.map((person) => ({ group: group.id, person })))
    await this.manager.query(
      `insert into group_member (group_id, person_id) select * from unnest($1::text[], $2::text[]) on conflict do nothing`,
      [members.map((one) => one.group), members.map((one) => one.person)],
    )
  }

  async rename(groupId: string, name: string): Promise<void> {
    await this.manager.query(`update course_group set name = $2 where id = $1`, [groupId, name])
  }

  /** Exactly these people; nobody is in two groups of one set. */
  async setMembers(groupId: string, people: readonly string[]): Promise<void> {
    await this.manager.query(
      `delete from group_member m using course_group g, course_group mine where mine.id = $1 and g.set_id = mine.set_id and m.group_id = g.id
         and (m.group_id = $1 and not m.person_id = any($2) or m.group_id <> $1 and m.person_id = any($2))`,
      [groupId, people],
    )
    await this.manager.query(
      `insert into group_member (group_id, person_id) select $1, unnest($2::text[]) on conflict do nothing`,
      [groupId, people],
    )
  }

  /** Groups by the assignments of a course that are released to them. */
  async released(courseId: string): Promise<Map<string, string[]>> {
    const rows = await this.manager.query<{ id: string; groups: string[] }[]>(
      `select t.assignment_id as id, array_agg(t.group_id) as groups from assignment_group t join assignment a on a.id = t.assignment_id
       where a.course_id = $1 group by 1`,
      [courseId],
    )
    return new Map(rows.map((one) => [one.id, one.groups]))
  }

  /** How many assignments are released to one of these groups. */
  async uses(groupIds: readonly string[]): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(distinct assignment_id)::int as n from assignment_group where group_id = any($1)`,
      [groupIds],
    )
    return row!.n
  }

  async removeSet(id: string): Promise<void> {
    await this.manager.query(`delete from group_set where id = $1`, [id])
  }

  async removeGroup(id: string): Promise<void> {
    await this.manager.query(`delete from course_group where id = $1`, [id])
  }
}
