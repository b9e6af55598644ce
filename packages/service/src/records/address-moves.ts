import type { EntityManager } from 'typeorm'

/** Where links keep addresses of their own, and what people call such a link by. */
const PLACES = [
  { kind: 'assignment', field: 'launch_url', title: 'title' },
  { kind: 'assignment', field: 'review_url', title: 'title' },
  { kind: 'menu_entry', field: 'launch_url', title: 'label' },
  { kind: 'unit_item', field: 'launch_url', title: 'title' },
] as const
type Place = Pick<(typeof PLACES)[number], 'kind' | 'field'>

/** An address that a link has of its own. */
export interface OwnAddressRow extends Place {
  id: string
  before: string
  title: string
  course: { id: string; code: string; title: string }
}
export interface LinkMove extends Place {
  id: string
  before: string
  after: string
}
export interface AddressMoveRow {
  id: string
  at: Date
  from: string
  to: string
  registrationBefore: Record<string, unknown>
  registrationAfter: Record<string, unknown>
  undoneAt: Date | null
  course: { id: string; code: string; title: string } | null
  by: string | null
  addresses: number
  still: number
}

const course = `json_build_object('id', c.id, 'code', c.code, 'title', c.title)`
const ADDRESSES = PLACES.map(
  ({ kind, field, title }) => `
  select '${kind}' as kind, x.id, '${field}' as field, x.${field} as before, x.${title} as title, ${course} as course
  from ${kind} x join course c on c.id = x.course_id
  where x.registration_id = $1 and x.${field} is not null and ($2::text is null or x.course_id = $2)`,
).join(' union all ')

const STILL = PLACES.map(
  ({ kind, field }) => `(select count(*)::int from address_move_link l join ${kind} y on y.id = l.link_id
    where l.move_id = x.id and l.kind = '${kind}' and l.field = '${field}' and y.${field} = l.after)`,
).join(' + ')
const LIST = `
select x.id, x.at, x.from_url as "from", x.to_url as "to", x.registration_before as "registrationBefore", x.registration_after as "registrationAfter",
  x.undone_at as "undoneAt", case when c.id is null then null else ${course} end as course, p.full_name as by,
  (select count(*)::int from address_move_link l where l.move_id = x.id) as addresses, ${STILL} as still
from address_move x left join course c on c.id = x.course_id left join person p on p.id = x.person_id`

/** Addresses of a tool's links, and their moves when its domain moved. */
export class AddressMoveRecords {
  constructor(private readonly manager: EntityManager) {}

  /** The addresses that links of a tool have of their own, deleted links' too; of one course only where it is named. */
  ownAddresses(registrationId: string, courseId: string | null): Promise<OwnAddressRow[]> {
    return this.manager.query(
      `select * from (${ADDRESSES}) a order by a.course->>'code', a.kind, a.title, a.id, a.field`,
      [registrationId, courseId],
    )
  }

  /** How many of those addresses there are at each origin, the most first. */
  origins(registrationId: string): Promise<{ origin: string; n: number }[]> {
    return this.manager.query(
      `select substring(before from '^[A-Za-z]+://[^/?#]+') as origin, count(*)::int as n from (${ADDRESSES}) a group by 1 order by n desc, 1 limit 20`,
      [registrationId, null],
    )
  }

  async insert(move: {
    id: string
    registrationId: string
    courseId: string | null
    from: string
    to: string
    at: Date
    personId: string
    before: Record<string, unknown>
    after: Record<string, unknown>
    links: readonly LinkMove[]
  }): Promise<void> {
    await this.manager.query(
      `insert into address_move (id, registration_id, course_id, from_url, to_url, at, person_id, registration_before, registration_after)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
      [
        move.id,
        move.registrationId,
        move.courseId,
        move.from,
        move.to,
        move.at,
        move.personId,
        JSON.stringify(move.before),
        JSON.stringify(move.after),
      ],
    )
    await this.manager.query(
      `insert into address_move_link (move_id, kind, link_id, field, before, after)
       select $1, kind, id, field, before, after from json_to_recordset($2::json) as x(kind text, id text, field text, before text, after text)`,
      [move.id, JSON.stringify(move.links)],
    )
    await this.set(move.links, move.at)
  }

  /** Sets addresses that still are what they are taken for. */
  private async set(links: readonly LinkMove[], at: Date): Promise<void> {
    for (const { kind, field } of PLACES) {
      const own = links.filter((one) => one.kind === kind && one.field === field)
      if (own.length === 0) continue
      await this.manager.query(
        `update ${kind} x set ${field} = m.after, revision = x.revision + 1, updated_at = $2 ${kind === 'assignment' ? ', settings_changed_at = $2' : ''}
         from json_to_recordset($1::json) as m(id text, before text, after text) where x.id = m.id and x.${field} = m.before`,
        [JSON.stringify(own), at],
      )
    }
  }

  /** Makes addresses what they were before a move, where they still are what it made them. */
  async moveBack(id: string, at: Date): Promise<void> {
    const links = await this.manager.query<LinkMove[]>(
      `select kind, link_id as id, field, after as before, before as after from address_move_link where move_id = $1`,
      [id],
    )
    await this.set(links, at)
    await this.manager.query(`update address_move set undone_at = $2 where id = $1`, [id, at])
  }

  list(registrationId: string): Promise<AddressMoveRow[]> {
    return this.manager.query(`${LIST} where x.registration_id = $1 order by x.at desc, x.id limit 50`, [
      registrationId,
    ])
  }

  /** One move, locked against another undoing of it. */
  async lock(id: string, registrationId: string): Promise<AddressMoveRow | undefined> {
    await this.manager.query(`select 1 from address_move where id = $1 for update`, [id])
    const [row] = await this.manager.query<AddressMoveRow[]>(`${LIST} where x.id = $1 and x.registration_id = $2`, [
      id,
      registrationId,
    ])
    return row
  }
}
