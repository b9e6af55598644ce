import { Refusal, type CourseState, type GradebookCategory } from '@bathyscribe/contract'
import type { CourseRole } from '@bathyscribe/core/identity'
import { Not, type EntityManager } from 'typeorm'
import { CategoryRecord, CourseRecord } from './entities/courses.js'
import { likePattern, readCursor, toPage, type Page } from './paging.js'

/** A course with what its line in a list says. */
export interface CourseSummary extends Omit<CourseRecord, 'shownDecimals' | 'missingCounts'> {
  myRole: CourseRole | null
  learners: number
  assignments: number
  unproven: number
  categories: { id: string; name: string }[]
}

/** `HYD 210` as it is typed in commands: `HYD-210`. */
export function codeKey(code: string): string {
  return code.trim().toUpperCase().replace(/\s+/g, '-')
}

const SUMMARY = `
select c.id, c.code, c.code_key as "codeKey", c.title, c.term, c.time_zone as "timeZone", c.sourced_id as "sourcedId", c.created_at as "createdAt", c.state, c.state_since as "stateSince",
  c.starts_at as "startsAt", c.ends_at as "endsAt", c.welcome, c.revision,
  mine.role as "myRole",
  (select count(*)::int from enrolment e where e.course_id = c.id and e.role = 'learner' and e.state = 'active') as learners,
  (select count(*)::int from assignment a where a.course_id = c.id and a.state in ('draft', 'published') and (a.state = 'published' or $2::boolean or mine.role in ('instructor', 'teaching_assistant'))) as assignments,
  (select count(*)::int from assignment a where a.course_id = c.id and a.state = 'published'
    and not exists (select 1 from result r where r.assignment_id = a.id and r.score_id is not null)) as unproven,
  coalesce((select json_agg(json_build_object('id', k.id, 'name', k.name) order by k.position, k.name) from category k where k.course_id = c.id), '[]') as categories
from course c left join enrolment mine on mine.course_id = c.id and mine.person_id = $1 and mine.state = 'active'`

export class CourseRecords {
  constructor(private readonly manager: EntityManager) {}

  /** By identifier or code. @throws Refusal when there is none, or only a deleted one that is not asked for. */
  async byRef(ref: string, deletedToo = false): Promise<CourseRecord> {
    const course = await this.manager.findOneBy(CourseRecord, [{ id: ref }, { codeKey: codeKey(ref) }])
    if (!course || (course.state === 'deleted' && !deletedToo)) throw new Refusal('course.not_found', ref.slice(0, 60))
    return course
  }

  /** Courses by identifiers, as they are referred to. */
  refs(ids: readonly string[]): Promise<{ id: string; code: string; title: string }[]> {
    return this.manager.query(`select id, code, title from course where id = any($1)`, [ids])
  }

  async insert(course: CourseRecord, categories: CategoryRecord[]): Promise<void> {
    await this.manager.insert(CourseRecord, course)
    if (categories.length > 0) await this.manager.insert(CategoryRecord, categories)
  }

  /** @param seesAll true for administrators, who see every course; others see those they are in. */
  async list(
    personId: string,
    seesAll: boolean,
    options: {
      search?: string | undefined
      state?: CourseState | undefined
      term?: string | undefined
      limit: number
      cursor?: string | undefined
    },
  ): Promise<Page<CourseSummary>> {
    const after = readCursor(options.cursor, 2)
    const rows = await this.manager.query<CourseSummary[]>(
      `${SUMMARY} where ($2::boolean or mine.role is not null)
        and ($3::text is null or c.code ilike $3 or c.title ilike $3)
        and ($4::text is null or (c.code_key, c.id) > ($4, $5))
        and case when $7::text is null then c.state <> 'deleted' else c.state = $7 and (c.state <> 'deleted' or $2) end and ($8::text is null or c.term = $8)
        order by c.code_key, c.id limit $6`,
      [
        personId,
        seesAll,
        options.search ? likePattern(options.search) : null,
        after?.[0],
        after?.[1],
        options.limit + 1,
        options.state ?? null,
        options.term ?? null,
      ],
    )
    return toPage(rows, options.limit, (last) => [last.codeKey, last.id])
  }

  /** What is not named, or undefined, stays. */
  async change(id: string, change: { [K in keyof CourseRecord]?: CourseRecord[K] | undefined }): Promise<void> {
    const given = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined))
    if (Object.keys(given).length > 0) await this.manager.update(CourseRecord, { id }, given)
  }

  /** Whether another course is tied to an identifier of the registrar's system. */
  sourcedIdTaken(sourcedId: string, courseId: string): Promise<boolean> {
    return this.manager.existsBy(CourseRecord, { sourcedId, id: Not(courseId) })
  }

  async summary(id: string, personId: string, seesAll: boolean): Promise<CourseSummary> {
    const [row] = await this.manager.query<CourseSummary[]>(`${SUMMARY} where c.id = $3`, [personId, seesAll, id])
    if (!row) throw new Refusal('course.not_found')
    return row
  }

  /** @throws Refusal when somebody was faster. */
  async setWelcome(id: string, revision: number, welcome: string): Promise<void> {
    const done = await this.manager.update(CourseRecord, { id, revision }, { welcome, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  async setWeight(categoryId: string, weight: string | null): Promise<void> {
    await this.manager.update(CategoryRecord, { id: categoryId }, { weight })
  }

  async categories(courseId: string): Promise<CategoryRecord[]> {
    return this.manager.find(CategoryRecord, { where: { courseId }, order: { position: 'ASC', name: 'ASC' } })
  }

  /** Categories in their order, with how many assignments stand in each; deleted ones are not counted. */
  categoriesInUse(courseId: string): Promise<GradebookCategory[]> {
    return this.manager.query(
      `select k.id, k.name, k.weight::text, (select count(*)::int from assignment a where a.category_id = k.id and a.state <> 'deleted') as assignments
       from category k where k.course_id = $1 order by k.position, k.name`,
      [courseId],
    )
  }

  /** A category by name. @throws Refusal when the course has none of this name. */
  async category(courseId: string, name: string): Promise<CategoryRecord> {
    const category = await this.manager.findOneBy(CategoryRecord, { courseId, name })
    if (!category) throw new Refusal('category.not_found', name)
    return category
  }

  /** Locks a course's categories against each other's changes. */
  async holdCategories(courseId: string): Promise<CategoryRecord[]> {
    await this.manager.query(`select 1 from course where id = $1 for no key update`, [courseId])
    return this.categories(courseId)
  }

  async insertCategory(category: CategoryRecord): Promise<void> {
    await this.manager.insert(CategoryRecord, category)
  }

  async renameCategory(id: string, name: string): Promise<void> {
    await this.manager.update(CategoryRecord, { id }, { name })
  }

  /** Gives categories the places in which they are named. */
  async orderCategories(ids: readonly string[]): Promise<void> {
    await this.manager.query(
      `update category k set position = x.n from unnest($1::text[]) with ordinality as x(id, n) where k.id = x.id`,
      [ids],
    )
  }

  /** Moves what stands in a category, deleted assignments too, and takes the category away. @returns how many that are there were moved */
  async removeCategory(id: string, moveTo: string | null): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `with moved as (update assignment set category_id = $2 where category_id = $1 returning state)
       select count(*) filter (where state <> 'deleted')::int as n from moved`,
      [id, moveTo],
    )
    await this.manager.delete(CategoryRecord, { id })
    return row!.n
  }
}
