import type { EntityManager } from 'typeorm'

/** Where something of a person is kept: what it tells of, the table, the column that names the person, and the one by which it is in order. */
export const KEPT = [
  ['account', 'person', 'id', 'created_at'],
  ['sessions', 'session', 'person_id', 'created_at'],
  ['accounts at identity providers', 'identity', 'person_id', 'tied_at'],
  ['API tokens', 'api_token', 'person_id', 'created_at'],
  ['sign-in links', 'sign_in_link', 'person_id', 'made_at'],
  ['wrong passwords', 'password_miss', 'account', 'at'],
  ['places of sign-in', 'sign_in_place', 'account', 'last_at'],
  ['mail of troubles', 'digest', 'person_id', 'next_at'],
  ['connections of tools', 'connection', 'person_id', 'made_at'],
  ['courses', 'enrolment', 'person_id', 'since'],
  ['groups', 'group_member', 'person_id', 'group_id'],
  ['assignments for this person', 'assignment_person', 'person_id', 'assignment_id'],
  ['visits', 'visit', 'person_id', 'last_at'],
  ['results', 'result', 'person_id', 'at'],
  ['scores', 'score', 'person_id', 'id'],
  ['results handed on', 'handed_on', 'person_id', 'asked_at'],
  ['scores given by hand', 'score', 'by_person_id', 'id'],
  ['messages', 'wire_entry', 'person_id', 'id'],
  ['acts', 'audit_entry', 'person_id', 'id'],
  ['cases', 'learner_case', 'person_id', 'since'],
  ['letters and reminders', 'case_event', 'person_id', 'id'],
  ['letters written', 'case_event', 'by_person_id', 'id'],
  ['soundings', 'sounding', 'person_id', 'started_at'],
  ['soundings worked on', 'sounding', 'pilot_id', 'started_at'],
  ['sweeps', 'sweep', 'person_id', 'started_at'],
  ['schedules of sweeps', 'sweep_schedule', 'person_id', 'created_at'],
  ['choices in pickers', 'picking', 'person_id', 'made_at'],
  ['files', 'course_file', 'person_id', 'created_at'],
  ['tools added to courses', 'course_tool', 'person_id', 'added_at'],
  ['first entries into tools', 'first_entry', 'person_id', 'at'],
  ['invitations of tools', 'invitation', 'person_id', 'made_at'],
  ['accepted warnings', 'preflight_acceptance', 'person_id', 'at'],
  ['expectations', 'expectation', 'person_id', 'set_at'],
  ['readings of exports', 'export_reading', 'person_id', 'at'],
  ['moves of addresses', 'address_move', 'person_id', 'at'],
  ['replacements of tools', 'tool_replacement', 'person_id', 'at'],
  ['what was said of diagnoses', 'diagnosis_verdict', 'person_id', 'at'],
  ['causes looked at', 'diagnosis_look', 'person_id', 'at'],
] as const

/** Secrets, their fingerprints, and how the house counts. What a message held is read with the message. */
export const LEFT_OUT = [
  'password_hash',
  'token_hash',
  'code_hash',
  'code_sealed',
  'id_token_sealed',
  'fingerprint',
  'content_key',
  'changed',
  'xact',
  'request',
  'response',
]
const MOST_ROWS = 20_000

export interface KeptRows {
  kind: string
  rows: Record<string, unknown>[]
  more: boolean
}

/** All that is kept of one person, and its end. */
export class PersonDataRecords {
  constructor(private readonly manager: EntityManager) {}

  async read({ id, username }: { id: string; username: string }): Promise<KeptRows[]> {
    const kinds: KeptRows[] = []
    for (const [kind, table, column, order] of KEPT) {
      const rows = await this.manager.query<{ row: Record<string, unknown> }[]>(
        `select to_jsonb(t) - $2::text[] as row from ${table} t where ${column} = $1 order by ${order} desc limit ${MOST_ROWS + 1}`,
        [column === 'account' ? username : id, LEFT_OUT],
      )
      kinds.push({ kind, rows: rows.slice(0, MOST_ROWS).map((one) => one.row), more: rows.length > MOST_ROWS })
    }
    return kinds
  }

  /** Removes what tells who the person was. Scores, visits and acts stay, as of an account without a name. */
  async remove(
    { id, username, fullName }: { id: string; username: string; fullName: string },
    now: Date,
  ): Promise<{ messages: number; results: number }> {
    for (const table of [
      'session',
      'identity',
      'api_token',
      'sign_in_link',
      'digest',
      'connection',
      'group_member',
      'picking',
      'learner_case',
      'case_event',
    ])
      await this.manager.query(`delete from ${table} where person_id = $1`, [id])
    for (const table of ['password_miss', 'sign_in_place'])
      await this.manager.query(`delete from ${table} where account = $1`, [username])
    await this.manager.query(
      `update enrolment set state = 'dropped', dropped_at = $2 where person_id = $1 and state = 'active'`,
      [id, now],
    )
    await this.manager.query(`update person set roster_name = null where id = $1`, [id])
    await this.manager.query(`update launch_evidence set person_name = null where person_name = $1`, [fullName])
    await this.forgetName(id, fullName)
    const [row] = await this.manager.query<[{ messages: number; results: number }]>(
      `with gone as (delete from wire_entry where person_id = $1 returning 1)
       select (select count(*)::int from gone) as messages, (select count(*)::int from result where person_id = $1) as results`,
      [id],
    )
    return row
  }

  /** Takes the name out of what soundings of the person's courses found. What a tool said of the person is its own words, and stays. */
  private async forgetName(id: string, fullName: string): Promise<void> {
    const courses = `select course_id from enrolment where person_id = $1`
    const links = `select id from assignment where course_id in (${courses})`
    const nameless = (said: string) => `jsonb_set(${said}, '{facts,who}', '"somebody"')`
    for (const [table, said, which] of [
      ['launch_evidence', 'said', `assignment_id in (${links})`],
      ['sounding', 'headline', `assignment_id in (${links})`],
      ['sweep_link', 'headline', `course_id in (${courses})`],
    ] as const)
      await this.manager.query(
        `update ${table} set ${said} = ${nameless(said)} where ${which} and ${said}->'facts'->>'who' = $2`,
        [id, fullName],
      )
    await this.manager.query(
      `update sounding_finding set facts = jsonb_set(facts, '{who}', '"somebody"')
       where facts->>'who' = $2 and sounding_id in (select id from sounding where assignment_id in (${links}))`,
      [id, fullName],
    )
  }
}
