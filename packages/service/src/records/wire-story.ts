import type { EntityManager } from 'typeorm'

/** A message of a story. */
export interface StoryEntry {
  id: string
  certain: boolean
}

const BEGINNINGS = `('login', 'launch', 'try')`
/** A launch of LTI 1.3 follows its login within this. */
const LOGIN_SECONDS = 120
/** Work at a tool may go on for so long; what comes later belongs to no launch. */
const HOURS = 8
/** Entries looked through on either side, so that an old log costs no more than a young one. */
const LOOKED_THROUGH = 200_000

/** Finds the messages that belong to one launch. */
export class WireStoryRecords {
  constructor(private readonly manager: EntityManager) {}

  /**
   * From the login or launch that an entry belongs to, up to the next one of the same person and link: those that name person and link for certain, and calls of the same
   * tool that name neither and fall into that time. At most `most`, the oldest first.
   * @param courseIds those whose entries may be seen; null for all
   */
  async of(entryId: string, courseIds: readonly string[] | null, most: number): Promise<StoryEntry[]> {
    return this.manager.query(
      `with asked as (select * from wire_entry where id = $1),
       same as (select w.id, w.kind, w.at from wire_entry w, asked q where w.registration_id = q.registration_id and w.person_id = q.person_id
         and (w.assignment_id, w.menu_entry_id, w.unit_item_id) is not distinct from (q.assignment_id, q.menu_entry_id, q.unit_item_id)
         and w.id between q.id - ${LOOKED_THROUGH} and q.id + ${LOOKED_THROUGH} and w.at between q.at - interval '${HOURS} hours' and q.at + interval '${HOURS} hours'),
       opened as (select s.id, s.at, s.kind from same s, asked q where s.kind in ${BEGINNINGS} and s.id <= q.id order by s.id desc limit 1),
       begun as (select coalesce((select l.id from same l, opened o where o.kind = 'launch' and l.kind = 'login' and l.id < o.id and l.at > o.at - interval '${LOGIN_SECONDS} seconds'
           and not exists (select 1 from same b where b.kind in ${BEGINNINGS} and b.id > l.id and b.id < o.id) limit 1),
         (select id from opened), (select id from asked)) as id),
       ended as (select min(s.id) as id from same s, begun b, asked q where s.kind in ${BEGINNINGS} and s.id > q.id
         and not (s.kind = 'launch' and q.kind = 'login' and s.at < q.at + interval '${LOGIN_SECONDS} seconds')),
       span as (select b.id as first, e.id as last, f.at as from_at, coalesce(l.at, f.at + interval '${HOURS} hours') as to_at
         from begun b cross join ended e join wire_entry f on f.id = b.id left join wire_entry l on l.id = e.id)
       select w.id::text as id, (w.id = q.id or w.person_id = q.person_id or w.sounding_id = q.sounding_id) as certain
       from wire_entry w, asked q, span p
       where w.id >= p.first and (p.last is null or w.id < p.last) and w.id <= q.id + ${LOOKED_THROUGH} and w.at <= p.to_at
         and (w.id = q.id or w.sounding_id = q.sounding_id or w.registration_id = q.registration_id and (
           w.person_id = q.person_id and (w.assignment_id, w.menu_entry_id, w.unit_item_id) is not distinct from (q.assignment_id, q.menu_entry_id, q.unit_item_id)
           or w.person_id is null and w.sounding_id is null and (w.assignment_id is null or w.assignment_id = q.assignment_id)))
         and ($2::text[] is null or w.course_id = any($2))
       order by w.id limit $3`,
      [entryId, courseIds, most],
    )
  }
}
