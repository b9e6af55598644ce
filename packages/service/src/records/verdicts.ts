import type { CountedCause } from '@bathyscribe/core/diagnosis'
import type { EntityManager } from 'typeorm'

type Person = { id: string; fullName: string; username: string }

export interface VerdictRow {
  code: string
  verdict: 'right' | 'wrong'
  was: string | null
  byItself: boolean
  by: Person | null
  at: Date
}

export interface NewVerdict extends Pick<VerdictRow, 'code' | 'verdict' | 'was' | 'at'> {
  wireEntryId: string
  /** As it was told; null where nothing was. */
  sentence: string | null
  personId: string
}

/** What was judged last of a cause, and when somebody looked at it. */
export interface CauseRow {
  code: string
  sentence: string | null
  wrongSince: number
  lookedAt: { at: Date; by: Person | null } | null
  last: { entry: string | null; at: Date }
}

const PERSON = `case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end`
/** Entries of one link that are looked through at a time. */
const LOOKED_THROUGH = 500
/** Links that are looked after at a time. */
const MOST_LINKS = 2000
/** An entry is given its number before it is written: what is younger may still find an earlier one beside it. */
const SETTLED = `interval '1 minute'`

/** A cause that was told with others, or was several in truth, is one of them each. */
const CODES_TOLD = `cross join lateral unnest(string_to_array(v.code, '+')) c (code)`
const CODES_MEANT = `cross join lateral unnest(string_to_array(v.was, '+')) c (code)`
/** Causes that were told wrongly so often since somebody looked at them. */
const WRONG_SINCE = `
  select c.code, count(*)::int as wrong from diagnosis_verdict v ${CODES_TOLD}
  left join diagnosis_look l on l.code = c.code
  where v.verdict = 'wrong' and v.code <> 'none' and (l.at is null or v.at > l.at) group by c.code`

/** What a person said goes before what showed by itself. */
const HELD = `(select distinct on (wire_entry_id, code) * from diagnosis_verdict order by wire_entry_id, code, by_itself)`

/** Whether what was told was right, and how often. */
export class VerdictRecords {
  constructor(private readonly manager: EntityManager) {}

  async put(verdict: NewVerdict): Promise<void> {
    const { wireEntryId, code, sentence, verdict: said, was, personId, at } = verdict
    await this.manager.query(
      `insert into diagnosis_verdict (wire_entry_id, code, sentence, verdict, was, by_itself, person_id, at) values ($1, $2, $3, $4, $5, false, $6, $7)
       on conflict (wire_entry_id, code, by_itself) do update set verdict = excluded.verdict, was = excluded.was, person_id = excluded.person_id, at = excluded.at`,
      [wireEntryId, code, sentence, said, was, personId, at],
    )
  }

  /** What people said of an entry goes; what showed by itself stays. @returns what went */
  takeBack(wireEntryId: string): Promise<Pick<VerdictRow, 'code' | 'verdict' | 'was'>[]> {
    return this.manager
      .query<[Pick<VerdictRow, 'code' | 'verdict' | 'was'>[], number]>(
        `delete from diagnosis_verdict where wire_entry_id = $1 and not by_itself returning code, verdict, was`,
        [wireEntryId],
      )
      .then(([rows]) => rows)
  }

  of(wireEntryId: string): Promise<VerdictRow[]> {
    return this.manager.query(
      `select v.code, v.verdict, v.was, v.by_itself as "byItself", ${PERSON} as by, v.at from diagnosis_verdict v left join person p on p.id = v.person_id
       where v.wire_entry_id = $1 order by v.code, v.by_itself`,
      [wireEntryId],
    )
  }

  /** Causes that were wrong at least so often since somebody looked at them, and how often. */
  async doubted(most: number): Promise<Map<string, number>> {
    const rows = await this.manager.query<{ code: string; wrong: number }[]>(
      `select * from (${WRONG_SINCE}) w where wrong >= $1 order by wrong desc, code`,
      [most],
    )
    return new Map(rows.map(({ code, wrong }) => [code, wrong]))
  }

  async look(code: string, personId: string, at: Date): Promise<void> {
    await this.manager.query(
      `insert into diagnosis_look (code, at, person_id) values ($1, $2, $3) on conflict (code) do update set at = excluded.at, person_id = excluded.person_id`,
      [code, at, personId],
    )
  }

  /** How often each cause was right, by month. */
  counted(): Promise<CountedCause[]> {
    return this.manager.query(
      `select code, month, sum(r)::int as right, sum(i)::int as "rightByItself", sum(w)::int as wrong, sum(m)::int as missed from (
         select c.code, to_char(v.at at time zone 'UTC', 'YYYY-MM') as month,
           (v.verdict = 'right' and not v.by_itself)::int as r, (v.verdict = 'right' and v.by_itself)::int as i, (v.verdict = 'wrong')::int as w, 0 as m
         from ${HELD} v ${CODES_TOLD} where v.code <> 'none'
         union all
         -- An entry whose causes were all wrong missed what it was once, not once for each.
         select c.code, to_char(max(v.at) at time zone 'UTC', 'YYYY-MM'), 0, 0, 0, 1
         from ${HELD} v ${CODES_MEANT} where v.was is not null group by v.wire_entry_id, c.code
       ) x group by code, month order by code, month`,
    )
  }

  /** Every cause that was judged or looked at. */
  async causes(): Promise<CauseRow[]> {
    const rows = await this.manager.query<
      (Omit<CauseRow, 'lookedAt' | 'last'> & {
        lookedAt: Date | null
        lookedBy: Person | null
        entry: string | null
        at: Date
      })[]
    >(
      `with said as (
         select c.code, v.sentence, v.wire_entry_id, v.at, v.code = c.code as alone from ${HELD} v ${CODES_TOLD} where v.code <> 'none'
         union all
         select c.code, null, v.wire_entry_id, v.at, false from ${HELD} v ${CODES_MEANT} where v.was is not null
       ), newest as (select distinct on (code) code, wire_entry_id, at from said order by code, at desc, wire_entry_id desc),
       told as (select distinct on (code) code, sentence from said where alone and sentence is not null order by code, at desc),
       wrong as (${WRONG_SINCE})
       select n.code, t.sentence, coalesce(x.wrong, 0) as "wrongSince",
         l.at as "lookedAt", ${PERSON} as "lookedBy", w.id::text as entry, n.at
       from newest n left join told t on t.code = n.code left join wrong x on x.code = n.code left join diagnosis_look l on l.code = n.code
       left join person p on p.id = l.person_id left join wire_entry w on w.id = n.wire_entry_id order by n.code`,
    )
    return rows.map(({ lookedAt, lookedBy, entry, at, ...one }) => ({
      ...one,
      lookedAt: lookedAt && { at: lookedAt, by: lookedBy },
      last: { entry, at },
    }))
  }

  /**
   * What was told was right where the next message of the same link and kind passed within a day. What people said of it stays.
   * @returns how many causes were found to be right
   */
  async settle(now: Date): Promise<number> {
    const [row] = await this.manager.query<{ settled: number }[]>(
      `with waiting as (
         select x.*, n.next_id, n.last_id from (select * from diagnosis_waiting order by at limit ${MOST_LINKS} for update skip locked) x
         cross join lateral (
           select min(e.id) filter (where e.kind = x.kind and e.direction = 'received' and e.registration_id = x.registration_id and e.assignment_id is not distinct from x.assignment_id) as next_id,
             max(e.id) filter (where e.at < $1::timestamptz - ${SETTLED}) as last_id
           from (
             (select id, kind, direction, registration_id, assignment_id, at from wire_entry where x.assignment_id is not null and assignment_id = x.assignment_id and id > x.looked_to order by id limit ${LOOKED_THROUGH})
             union all
             (select id, kind, direction, registration_id, assignment_id, at from wire_entry where x.assignment_id is null and registration_id = x.registration_id and id > x.looked_to order by id limit ${LOOKED_THROUGH})
           ) e
         ) n
       ), passed as (
         select x.wire_entry_id, g.at from waiting x join wire_entry g on g.id = x.next_id where g.outcome = 'accepted' and g.at <= x.at + interval '1 day'
       ), settled as (
         insert into diagnosis_verdict (wire_entry_id, code, sentence, verdict, by_itself, at)
         select p.wire_entry_id, c->>'code', c->>'sentence', 'right', true, p.at
         from passed p join diagnosis d on d.wire_entry_id = p.wire_entry_id cross join lateral jsonb_array_elements(d.found->'causes') c
         on conflict (wire_entry_id, code, by_itself) do nothing returning 1
       ), over as (
         delete from diagnosis_waiting x using waiting w
         where x.wire_entry_id = w.wire_entry_id and (w.next_id is not null or (w.last_id is null and x.at < $1::timestamptz - interval '1 day') or x.at < $1::timestamptz - interval '2 days')
       ), further as (
         update diagnosis_waiting x set looked_to = w.last_id from waiting w where x.wire_entry_id = w.wire_entry_id and w.next_id is null and w.last_id > x.looked_to
       )
       select count(*)::int as settled from settled`,
      [now],
    )
    return row!.settled
  }
}
