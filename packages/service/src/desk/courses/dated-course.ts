import type { CourseRecord } from '../../records/entities/courses.js'

type DatedCourseRow = Pick<CourseRecord, 'id' | 'code' | 'title' | 'timeZone'>

/** How a course is named in answers that have dates in its zone. */
export const datedCourse = ({ id, code, title, timeZone }: DatedCourseRow): DatedCourseRow => ({ id, code, title, timeZone }) // oxfmt-ignore
