import { Refusal } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'
import { CourseFileRecord } from './entities/content.js'

export interface FileRow extends CourseFileRecord {
  by: string | null
  uses: number
}

const FILES = `
select f.id, f.course_id as "courseId", f.name, f.media_type as "mediaType", f.bytes::int as bytes, f.content_key as "contentKey", f.person_id as "personId",
  f.created_at as "createdAt", p.full_name as by, (select count(*)::int from unit_item i where i.file_id = f.id) as uses
from course_file f left join person p on p.id = f.person_id`

/** Files of courses: what they are called and where their content stands. */
export class FileRecords {
  constructor(private readonly manager: EntityManager) {}

  list(courseId: string): Promise<FileRow[]> {
    return this.manager.query(`${FILES} where f.course_id = $1 order by lower(f.name), f.id limit 2000`, [courseId])
  }

  /** @throws Refusal when the course has no such file. */
  async show(courseId: string, id: string): Promise<FileRow> {
    const [row] = await this.manager.query<FileRow[]>(`${FILES} where f.course_id = $1 and f.id = $2`, [courseId, id])
    if (!row) throw new Refusal('file.not_found', id)
    return row
  }

  byId(id: string): Promise<CourseFileRecord | null> {
    return this.manager.findOneBy(CourseFileRecord, { id })
  }

  /** Whether learners meet a file: in a published unit, or in a text that they can read. */
  async isShown(courseId: string, id: string): Promise<boolean> {
    const [row] = await this.manager.query<{ shown: boolean }[]>(
      `select exists (select 1 from unit_item i left join unit u on u.id = i.unit_id where i.course_id = $1 and i.published and (u.id is null or u.published)
           and (i.file_id = $2 or i.body like '%/files/' || $2 || '/content%'))
         or exists (select 1 from assignment a where a.course_id = $1 and a.state = 'published' and a.instructions like '%/files/' || $2 || '/content%')
         or exists (select 1 from course c where c.id = $1 and c.welcome like '%/files/' || $2 || '/content%') as shown`,
      [courseId, id],
    )
    return row?.shown ?? false
  }

  async insert(file: CourseFileRecord): Promise<void> {
    await this.manager.insert(CourseFileRecord, file)
  }

  /**
   * Looks whether more files have room in a course. Inside a transaction others wait until it ends, so that two do not take the same room.
   * @throws Refusal
   */
  async requireRoom(courseId: string, moreBytes: number, mostBytes: number): Promise<void> {
    await this.manager.query(`select 1 from course where id = $1 for no key update`, [courseId])
    const [row] = await this.manager.query<[{ bytes: string }]>(
      `select coalesce(sum(bytes), 0) as bytes from course_file where course_id = $1`,
      [courseId],
    )
    const bytes = Number(row.bytes) + moreBytes
    if (bytes > mostBytes)
      throw new Refusal('file.course_full', `${inMegabytes(bytes)} of ${inMegabytes(mostBytes)} MiB`)
  }

  async remove(id: string): Promise<void> {
    await this.manager.delete(CourseFileRecord, { id })
  }

  /** Which of some contents a file has. */
  async keptOf(contentKeys: readonly string[]): Promise<ReadonlySet<string>> {
    const rows = await this.manager.query<{ key: string }[]>(
      `select distinct content_key as key from course_file where content_key = any($1)`,
      [contentKeys],
    )
    return new Set(rows.map(({ key }) => key))
  }
}

function inMegabytes(bytes: number): number {
  return Math.ceil(bytes / 1_048_576)
}
