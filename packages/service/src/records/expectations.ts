import type { EntityManager } from 'typeorm'

/** What a link is expected to do. Numbers that are compared exactly are decimals as text. */
export interface ExpectationRow {
  answersWithinMs: number | null
  contains: string | null
  scoreFrom: string | null
  scoreTo: string | null
  membersFrom: number | null
  setAt: Date
  by: { id: string; fullName: string; username: string } | null
  learnedFrom: string | null
}

export class ExpectationRecords {
  constructor(private readonly manager: EntityManager) {}

  async find(assignmentId: string): Promise<ExpectationRow | null> {
    const [row] = await this.manager.query<ExpectationRow[]>(
      `select x.answers_within_ms as "answersWithinMs", x.contains, x.score_from::text as "scoreFrom", x.score_to::text as "scoreTo", x.members_from as "membersFrom", x.set_at as "setAt",
         x.learned_from as "learnedFrom", case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as by
       from expectation x left join person p on p.id = x.person_id where x.assignment_id = $1`,
      [assignmentId],
    )
    return row ?? null
  }

  async set(
    assignmentId: string,
    wanted: Omit<ExpectationRow, 'setAt' | 'by'> & { setAt: Date; personId: string },
  ): Promise<void> {
    await this.manager.query(
      `insert into expectation (assignment_id, answers_within_ms, contains, score_from, score_to, members_from, set_at, person_id, learned_from)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9) on conflict (assignment_id) do update set answers_within_ms = excluded.answers_within_ms, contains = excluded.contains,
         score_from = excluded.score_from, score_to = excluded.score_to, members_from = excluded.members_from, set_at = excluded.set_at, person_id = excluded.person_id,
         learned_from = excluded.learned_from`,
      [
        assignmentId,
        wanted.answersWithinMs,
        wanted.contains,
        wanted.scoreFrom,
        wanted.scoreTo,
        wanted.membersFrom,
        wanted.setAt,
        wanted.personId,
        wanted.learnedFrom,
      ],
    )
  }

  async remove(assignmentId: string): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(`delete from expectation where assignment_id = $1`, [
      assignmentId,
    ])
    return count === 1
  }
}
