import { Refusal, type ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'
import { UnitItemRecord, UnitRecord } from './entities/content.js'

/** An item with what its line in the outline says. */
export interface ItemRow extends Omit<UnitItemRecord, 'body'> {
  tool: { id: string; slug: string; name: string; state: ToolState } | null
  file: { id: string; name: string; mediaType: string; bytes: number } | null
}

const ITEMS = `
select i.id, i.course_id as "courseId", i.unit_id as "unitId", i.kind, i.title, i.published, i.pinned, i.position, i.assignment_id as "assignmentId",
  i.file_id as "fileId", i.address, i.registration_id as "registrationId", i.launch_url as "launchUrl", i.custom_parameters as "customParameters",
  i.document_target as "documentTarget", i.resource_link_id as "resourceLinkId", i.content, i.revision, i.created_at as "createdAt", i.updated_at as "updatedAt",
  case when r.id is null then null else json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) end as tool,
  case when f.id is null then null else json_build_object('id', f.id, 'name', f.name, 'mediaType', f.media_type, 'bytes', f.bytes) end as file
from unit_item i left join registration r on r.id = i.registration_id left join course_file f on f.id = i.file_id`

/** Units and what stands in them. */
export class OutlineRecords {
  constructor(private readonly manager: EntityManager) {}

  units(courseId: string): Promise<UnitRecord[]> {
    return this.manager.find(UnitRecord, { where: { courseId }, order: { position: 'ASC', id: 'ASC' } })
  }

  items(courseId: string): Promise<ItemRow[]> {
    return this.manager.query(`${ITEMS} where i.course_id = $1 and i.unit_id is not null order by i.position, i.id`, [
      courseId,
    ])
  }

  /** @throws Refusal when the course has no such unit. */
  async unit(courseId: string, id: string): Promise<UnitRecord> {
    const unit = await this.manager.findOneBy(UnitRecord, { id, courseId })
    if (!unit) throw new Refusal('unit.not_found', id)
    return unit
  }

  /** @throws Refusal when the course has no such item. */
  async item(courseId: string, id: string): Promise<ItemRow & Pick<UnitItemRecord, 'body'>> {
    const [row] = await this.manager.query<ItemRow[]>(`${ITEMS} where i.course_id = $1 and i.id = $2`, [courseId, id])
    const body =
      row && (await this.manager.findOne(UnitItemRecord, { where: { id }, select: { id: true, body: true } }))
    if (!row || !body) throw new Refusal('item.not_found', id)
    return { ...row, body: body.body }
  }

  /** The item that places an assignment; null when it stands in no unit. */
  ofAssignment(assignmentId: string): Promise<UnitItemRecord | null> {
    return this.manager.findOneBy(UnitItemRecord, { assignmentId })
  }

  /** Puts units at the end of the outline, in their order. */
  async addUnits(courseId: string, units: readonly Omit<UnitRecord, 'position'>[]): Promise<void> {
    if (units.length === 0) return
    await this.lock(courseId)
    const next = await this.next(`select max(position) as n from unit where course_id = $1`, courseId)
    await this.manager.insert(
      UnitRecord,
      units.map((unit, i) => ({ ...unit, position: next + i })),
    )
  }

  /** Puts items at the end of their units, in their order. */
  async addItems(courseId: string, items: readonly Omit<UnitItemRecord, 'position'>[]): Promise<void> {
    if (items.length === 0) return
    await this.lock(courseId)
    const next = await this.next(`select max(position) as n from unit_item where course_id = $1`, courseId)
    for (let i = 0; i < items.length; i += 500)
      await this.manager.insert(
        UnitItemRecord,
        items.slice(i, i + 500).map((item, n) => ({ ...item, position: next + i + n })),
      )
  }

  /** Puts an item where another one stood. */
  async addItemAt(item: Omit<UnitItemRecord, 'position'>, position: number): Promise<void> {
    await this.lock(item.courseId)
    await this.manager.insert(UnitItemRecord, { ...item, position })
  }

  /** @throws Refusal when somebody was faster. */
  async updateUnit(id: string, revision: number, change: Partial<UnitRecord>): Promise<void> {
    const done = await this.manager.update(UnitRecord, { id, revision }, { ...change, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  /** @throws Refusal when somebody was faster. */
  async updateItem(id: string, revision: number, change: Partial<UnitItemRecord>): Promise<void> {
    const done = await this.manager.update(UnitItemRecord, { id, revision }, { ...change, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  /** Publishes or hides everything in a unit that has a state of its own. */
  async setPublished(unitId: string, published: boolean): Promise<void> {
    await this.manager.query(
      `update unit_item set published = $2, revision = revision + 1 where unit_id = $1 and published <> $2`,
      [unitId, published],
    )
  }

  async removeUnit(id: string): Promise<void> {
    await this.manager.query(`delete from first_entry where link_id in (select id from unit_item where unit_id = $1)`, [
      id,
    ])
    await this.manager.delete(UnitRecord, { id })
  }

  async removeItem(id: string): Promise<void> {
    await this.manager.query(`delete from first_entry where link_id = $1`, [id])
    await this.manager.delete(UnitItemRecord, { id })
  }

  /** Moves an assignment's item to the end of a unit, or makes it; null takes it out. */
  async placeAssignment(
    item: Omit<UnitItemRecord, 'position' | 'unitId'> & { assignmentId: string },
    unitId: string | null,
  ): Promise<void> {
    const there = await this.ofAssignment(item.assignmentId)
    if (there?.unitId === unitId) return
    if (there) await this.manager.delete(UnitItemRecord, { id: there.id })
    if (unitId !== null) await this.addItems(item.courseId, [{ ...item, unitId }])
  }

  /** Puts everything into another order. @throws Refusal unless exactly what is there is named, each once. */
  async reorder(courseId: string, units: readonly { unit: string; items: readonly string[] }[]): Promise<void> {
    await this.lock(courseId)
    const there = await this.manager.query<{ id: string }[]>(
      `select id from unit where course_id = $1 union all select id from unit_item where course_id = $1 and unit_id is not null`,
      [courseId],
    )
    const named = units.flatMap(({ unit, items }) => [unit, ...items])
    const known = new Set(there.map((one) => one.id))
    if (new Set(named).size !== named.length || named.length !== known.size || !named.every((id) => known.has(id)))
      throw new Refusal('unit.order')
    await this.manager.query(
      `update unit u set position = x.n from unnest($2::text[]) with ordinality as x(id, n) where u.id = x.id and u.course_id = $1 and u.position <> x.n`,
      [courseId, units.map((one) => one.unit)],
    )
    const items = units.flatMap(({ unit, items: ids }) => ids.map((id) => ({ unit, id })))
    await this.manager.query(
      `update unit_item i set unit_id = x.unit, position = x.n from unnest($2::text[], $3::text[]) with ordinality as x(id, unit, n)
       where i.id = x.id and i.course_id = $1 and (i.position <> x.n or i.unit_id <> x.unit)`,
      [courseId, items.map((one) => one.id), items.map((one) => one.unit)],
    )
  }

  /** Two people at one outline take turns. */
  private async lock(courseId: string): Promise<void> {
    await this.manager.query(`select pg_advisory_xact_lock(hashtext('outline ' || $1))`, [courseId])
  }

  private async next(sql: string, courseId: string): Promise<number> {
    const [row] = await this.manager.query<{ n: number | null }[]>(sql, [courseId])
    return (row?.n ?? 0) + 1
  }
}
