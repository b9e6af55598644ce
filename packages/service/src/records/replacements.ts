import type { ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'

/** What would move in one course. */
export interface MovingRow {
  course: { id: string; code: string; title: string }
  assignments: number
  published: number
  counted: number
  menuEntries: number
  unitItems: number
  results: number
  /** Links with an address of their own, which moves with them. */
  ownAddresses: number
}
export interface ReplacementRow {
  id: string
  at: Date
  fromId: string
  toId: string
  stateBefore: ToolState
  undoneAt: Date | null
  from: { id: string; slug: string; name: string; state: ToolState }
  to: { id: string; slug: string; name: string; state: ToolState }
  course: { id: string; code: string; title: string } | null
  by: string | null
  /** Links that were moved, and those of them that still are where they were moved to. */
  links: number
  still: number
}

const KINDS = ['assignment', 'menu_entry', 'unit_item'] as const
const tool = (as: string) =>
  `json_build_object('id', ${as}.id, 'slug', ${as}.slug, 'name', ${as}.name, 'state', ${as}.state)`
const course = `json_build_object('id', c.id, 'code', c.code, 'title', c.title)`

const LIST = `
select x.id, x.at, x.from_id as "fromId", x.to_id as "toId", x.state_before as "stateBefore", x.undone_at as "undoneAt", ${tool('f')} as "from", ${tool('t')} as "to",
  case when c.id is null then null else ${course} end as course, p.full_name as by,
  (select count(*)::int from tool_replacement_link l where l.replacement_id = x.id) as links,
  (${KINDS.map((kind) => `(select count(*)::int from tool_replacement_link l join ${kind} y on y.id = l.link_id where l.replacement_id = x.id and l.kind = '${kind}' and y.registration_id = x.to_id)`).join(' + ')}) as still
from tool_replacement x join registration f on f.id = x.from_id join registration t on t.id = x.to_id
left join course c on c.id = x.course_id left join person p on p.id = x.person_id`

/** Links that move from one registration to another, and back. */
export class ReplacementRecords {
  constructor(private readonly manager: EntityManager) {}

  /** By course, what would move; of one course only where it is named. */
  moving(registrationId: string, courseId: string | null): Promise<MovingRow[]> {
    return this.manager.query(
      `with a as (select course_id, count(*) filter (where state in ('draft', 'published'))::int as assignments, count(*) filter (where state = 'published')::int as published,
           count(*) filter (where state = 'published' and counted)::int as counted, count(*) filter (where launch_url is not null and state in ('draft', 'published'))::int as own
         from assignment where registration_id = $1 group by 1),
       m as (select course_id, count(*)::int as n, count(*) filter (where launch_url is not null)::int as own from menu_entry where registration_id = $1 group by 1),
       u as (select course_id, count(*)::int as n, count(*) filter (where launch_url is not null)::int as own from unit_item where registration_id = $1 group by 1),
       s as (select a.course_id, count(*)::int as n from assignment a join result r on r.assignment_id = a.id and r.score_id is not null where a.registration_id = $1 group by 1)
       select ${course} as course, coalesce(a.assignments, 0) as assignments, coalesce(a.published, 0) as published, coalesce(a.counted, 0) as counted,
         coalesce(m.n, 0) as "menuEntries", coalesce(u.n, 0) as "unitItems", coalesce(s.n, 0) as results, coalesce(a.own, 0) + coalesce(m.own, 0) + coalesce(u.own, 0) as "ownAddresses"
       from course c left join a on a.course_id = c.id left join m on m.course_id = c.id left join u on u.course_id = c.id left join s on s.course_id = c.id
       where (a.course_id is not null or m.course_id is not null or u.course_id is not null) and ($2::text is null or c.id = $2) order by c.code_key`,
      [registrationId, courseId],
    )
  }

  /** Moves every link of one registration, or those of one course, to another. Identifiers of links, and with them scores, stay. @returns how many */
  async move(replacement: {
    id: string
    from: string
    to: string
    courseId: string | null
    at: Date
    personId: string
    stateBefore: ToolState
  }): Promise<number> {
    const { id, from, to, courseId, at } = replacement
    await this.manager.query(
      `insert into tool_replacement (id, from_id, to_id, course_id, at, person_id, state_before) values ($1, $2, $3, $4, $5, $6, $7)`,
      [id, from, to, courseId, at, replacement.personId, replacement.stateBefore],
    )
    let moved = 0
    for (const kind of KINDS) {
      const [row] = await this.manager.query<{ n: number }[]>(
        `with moved as (update ${kind} set registration_id = $2, revision = revision + 1, updated_at = $3 ${kind === 'assignment' ? ', settings_changed_at = $3' : ''}
           where registration_id = $1 and ($4::text is null or course_id = $4) returning id),
         noted as (insert into tool_replacement_link (replacement_id, kind, link_id) select $5, '${kind}', id from moved)
         select count(*)::int as n from moved`,
        [from, to, at, courseId, id],
      )
      moved += row!.n
    }
    await this.manager.query(
      `update assignment set content_tool_id = $2 where content_tool_id = $1 and ($3::text is null or course_id = $3)`,
      [from, to, courseId],
    )
    await this.manager.query(
      `insert into course_tool (course_id, registration_id, person_id, added_at)
       select course_id, $2, person_id, added_at from course_tool where registration_id = $1 and ($3::text is null or course_id = $3) on conflict do nothing`,
      [from, to, courseId],
    )
    return moved
  }

  /** Moves back what still is where it was moved to. @returns how many links */
  async moveBack(replacement: ReplacementRow, at: Date): Promise<number> {
    const { id, fromId, toId } = replacement
    let moved = 0
    for (const kind of KINDS) {
      const [, count] = await this.manager.query<[unknown, number]>(
        `update ${kind} x set registration_id = $2, revision = revision + 1, updated_at = $3 ${kind === 'assignment' ? ', settings_changed_at = $3' : ''}
         from tool_replacement_link l where l.replacement_id = $4 and l.kind = '${kind}' and l.link_id = x.id and x.registration_id = $1`,
        [toId, fromId, at, id],
      )
      moved += count
    }
    await this.manager.query(
      `update assignment a set content_tool_id = $2 from tool_replacement_link l
       where l.replacement_id = $3 and l.kind = 'assignment' and l.link_id = a.id and a.content_tool_id = $1`,
      [toId, fromId, id],
    )
    await this.manager.query(`update tool_replacement set undone_at = $2 where id = $1`, [id, at])
    return moved
  }

  /** Replacements that a registration was the beginning or the end of, newest first. */
  list(registrationId: string): Promise<ReplacementRow[]> {
    return this.manager.query(`${LIST} where x.from_id = $1 or x.to_id = $1 order by x.at desc, x.id limit 50`, [
      registrationId,
    ])
  }

  /** One replacement, locked against another undoing of it. */
  async lock(id: string, registrationId: string): Promise<ReplacementRow | undefined> {
    await this.manager.query(`select 1 from tool_replacement where id = $1 for update`, [id])
    const [row] = await this.manager.query<ReplacementRow[]>(
      `${LIST} where x.id = $1 and (x.from_id = $2 or x.to_id = $2)`,
      [id, registrationId],
    )
    return row
  }
}
