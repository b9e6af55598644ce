import type { EntityManager } from 'typeorm'

export interface Impact {
  assignments: number
  published: number
  menuEntries: number
  courses: { id: string; code: string; title: string }[]
  scores: number
}

/** What depends on a registration, and what goes with it. */
export class ImpactRecords {
  constructor(private readonly manager: EntityManager) {}

  async of(registrationId: string): Promise<Impact> {
    const [row] = await this.manager.query<Impact[]>(
      `select (select count(*)::int from assignment where registration_id = $1 and state in ('draft', 'published')) as assignments,
         (select count(*)::int from assignment where registration_id = $1 and state = 'published') as published,
         (select count(*)::int from menu_entry where registration_id = $1) as "menuEntries",
         (select count(*)::int from result s join assignment a on a.id = s.assignment_id where a.registration_id = $1 and s.score_id is not null) as scores,
         coalesce((select json_agg(json_build_object('id', c.id, 'code', c.code, 'title', c.title) order by c.code_key) from course c
           where c.id in (select course_id from assignment where registration_id = $1 union select course_id from menu_entry where registration_id = $1)), '[]') as courses`,
      [registrationId],
    )
    return row!
  }

  /** Removes for good what was deleted before then: registrations without assignments, and the secrets of all. @returns how many */
  async purge(before: Date): Promise<number> {
    const gone = `state = 'deleted' and deleted_at < $1`
    await this.manager.query(
      `delete from menu_entry where registration_id in (select id from registration where ${gone})`,
      [before],
    )
    await this.manager.query(
      `delete from unit_item where registration_id in (select id from registration where ${gone})`,
      [before],
    )
    await this.manager.query(
      `delete from other_secret where registration_id in (select id from registration where ${gone})`,
      [before],
    )
    await this.manager.query(
      `update registration set secret_sealed = null, management_hash = null where ${gone} and secret_sealed is not null`,
      [before],
    )
    const [, count] = await this.manager.query<[unknown, number]>(
      `delete from registration r where ${gone} and not exists (select 1 from assignment a where a.registration_id = r.id or a.content_tool_id = r.id)
         and not exists (select 1 from registration x where x.replaced_by_id = r.id or x.template_id = r.id)`,
      [before],
    )
    return count
  }
}
