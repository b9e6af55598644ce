import { Refusal, type ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'
import { PickingRecord } from './entities/content.js'

export interface PickingRow extends PickingRecord {
  tool: { id: string; slug: string; name: string; state: ToolState }
}

const PICKING = `
select p.id, p.course_id as "courseId", p.registration_id as "registrationId", p.person_id as "personId", p.purpose, p.assignment_id as "assignmentId",
  p.multiple, p.state, p.items, p.problems, p.said, p.code, p.wire_entry_id::text as "wireEntryId", p.made_at as "madeAt",
  p.expires_at as "expiresAt", p.answered_at as "answeredAt", json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool
from picking p join registration r on r.id = p.registration_id`

/** Questions to pickers and their answers. */
export class PickingRecords {
  constructor(private readonly manager: EntityManager) {}

  async insert(picking: PickingRecord): Promise<void> {
    await this.manager.insert(PickingRecord, picking)
  }

  /** @throws Refusal when the course has no such picking of this person. */
  async show(courseId: string, id: string, personId: string): Promise<PickingRow> {
    const [row] = await this.manager.query<PickingRow[]>(
      `${PICKING} where p.course_id = $1 and p.id = $2 and p.person_id = $3`,
      [courseId, id, personId],
    )
    if (!row) throw new Refusal('picker.not_found', id)
    return row
  }

  byId(id: string): Promise<PickingRecord | null> {
    return this.manager.findOneBy(PickingRecord, { id })
  }

  /** Notes why an answer was refused; a better one may still come. */
  async noteRefusal(id: string, code: string, wireEntryId: string | null): Promise<void> {
    await this.manager.update(PickingRecord, { id, state: 'open' }, { code, wireEntryId })
  }

  /** @returns false when the tool has used it before; nothing is used up then */
  async useNonce(registrationId: string, nonce: { value: string; expiresAt: Date }): Promise<boolean> {
    const rows = await this.manager.query<unknown[]>(
      `insert into nonce (registration_id, nonce, expires_at) values ($1, $2, $3) on conflict do nothing returning 1`,
      [registrationId, nonce.value, nonce.expiresAt],
    )
    return rows.length === 1
  }

  async noteEntry(id: string, wireEntryId: string): Promise<void> {
    await this.manager.update(PickingRecord, { id }, { wireEntryId })
  }

  /** Closes an open picking with what came back. @returns false when it was closed before: what came first stays. */
  async close(
    id: string,
    change: Partial<PickingRecord> & { state: Exclude<PickingRecord['state'], 'open'> },
  ): Promise<boolean> {
    const done = await this.manager.update(PickingRecord, { id, state: 'open' }, change)
    return done.affected === 1
  }
}
