import type { RosterImport, RosterImported } from '@bathyscribe/contract'
import { readMomentCell, toDate } from '@bathyscribe/core/dates'
import type { Roster, RosterTerm } from '@bathyscribe/core/oneroster'
import type { z } from 'zod'
import { codeKey } from '../../records/courses.js'
import type { Records } from '../../records/index.js'
import { MOST_NAMED, type PlaceToImport, type RosterCourse } from '../../records/roster-imports.js'
import { createCourse } from '../courses/create-course.js'
import { by, type Actor, type Context } from '../context.js'

const MOST_PROBLEMS = 200

type Problem = Roster['problems'][number]

/** Undoes everything: what was asked for was only what would change. */
class OnlyAsked extends Error {
  constructor(readonly answer: RosterImported) {
    super('only asked')
  }
}

/**
 * Reads a roster and brings people and enrolments in step with it, all or nothing. Who is dropped keeps results; launches and services refuse them from then on.
 * Without `apply` the same is done and undone again, so that what is said is what would be.
 * @throws Refusal
 */
export async function importRoster(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof RosterImport>,
): Promise<RosterImported> {
  const roster = await context.workers.readRoster(wanted)
  try {
    const answer = await context.records.transaction(async (records) => {
      await records.rosterImports.lock()
      const done = await apply(context, actor, records, roster, wanted)
      if (!wanted.apply) throw new OnlyAsked({ ...done, applied: false })
      await records.audit.add({
        at: context.clock.now(),
        ...by(actor),
        action: 'import roster',
        subject: `file ${wanted.fileName}`,
        after: { ...done, problems: done.problems.length, courses: done.courses.length },
      })
      return done
    })
    for (const { id } of answer.courses) context.changes.publish({ kind: 'people', courseId: id })
    return answer
  } catch (error) {
    if (error instanceof OnlyAsked) return error.answer
    throw error
  }
}

async function apply(
  context: Context,
  actor: Actor,
  records: Records,
  roster: Roster,
  wanted: z.output<typeof RosterImport>,
): Promise<RosterImported> {
  const { ids, clock } = context
  const problems = [...roster.problems]
  await records.rosterImports.stagePeople(
    roster.people.map((one) => ({
      id: ids.next(),
      subject: ids.secret().slice(0, 32),
      ...one,
      fullName: `${one.givenName} ${one.familyName}`.trim(),
      email: one.email || null,
    })),
  )
  const people = await records.rosterImports.people()
  for (const { key, why } of people.held) problems.push({ file: 'people', line: 0, message: `${key}: ${why}` })

  const courses = await coursesOf(context, actor, records, roster, wanted)
  const placed = await readPlaces(records, roster, courses.known, people.known)
  problems.push(...courses.problems, ...placed.problems)
  const { places, courseIds } = placed
  const put = await records.rosterImports.place(places, { whole: roster.whole ? courseIds : [], at: clock.now() })
  return {
    applied: true,
    whole: roster.whole,
    peopleMade: people.made,
    peopleChanged: people.changed,
    coursesMade: courses.made,
    coursesDated: courses.dated,
    added: put.added,
    returned: put.returned,
    dropped: put.dropped,
    unchanged: places.filter((one) => one.active).length - put.added - put.returned,
    courses: [...courses.known.values()]
      .filter((one) => courseIds.includes(one.id))
      .map(({ id, code, title }) => ({ id, code, title })),
    problems: problems.slice(0, MOST_PROBLEMS),
  }
}

interface CoursesOfRoster {
  /** By the sourced identifier of their class. */
  known: Map<string, RosterCourse>
  made: number
  dated: number
  problems: Problem[]
}

/** The courses of a roster's classes: those that are there, and new ones where they are wanted. */
async function coursesOf(
  context: Context,
  actor: Actor,
  records: Records,
  roster: Roster,
  wanted: z.output<typeof RosterImport>,
): Promise<CoursesOfRoster> {
  const keys = roster.classes.map((one) => ({ sourcedId: one.sourcedId, codeKey: codeKey(one.code) }))
  const known = await records.rosterImports.courses(keys)
  const problems: Problem[] = []
  let made = 0
  let dated = 0
  for (const one of roster.classes) {
    const there = known.get(one.sourcedId)
    if (there?.state === 'deleted') {
      problems.push({
        file: 'classes',
        line: 0,
        message: `${one.code} was deleted here: restore it to bring people in`,
      })
      known.delete(one.sourcedId)
      continue
    }
    if (there) {
      if (await giveTerm(records, there, one.term)) dated += 1
      continue
    }
    if (!wanted.makeCourses || one.title === '') {
      problems.push({ file: 'classes', line: 0, message: `${one.code} is no course here` })
      continue
    }
    const course = await createCourse({ ...context, records }, actor, {
      code: plainCode(one.code),
      title: one.title.slice(0, 200),
      term: one.term?.title.slice(0, 60) ?? '',
      timeZone: wanted.timeZone,
      sourcedId: one.sourcedId,
      categories: [],
      ...datesOf(one.term, wanted.timeZone ?? context.settings.timeZone),
    })
    known.set(one.sourcedId, course)
    made += 1
  }
  return { known, made, dated, problems }
}

/** Who is to have which place in which course. */
async function readPlaces(
  records: Records,
  roster: Roster,
  courses: ReadonlyMap<string, RosterCourse>,
  people: ReadonlyMap<string, string>,
): Promise<{ places: PlaceToImport[]; courseIds: string[]; problems: Problem[] }> {
  const problems: Problem[] = []
  const strange = new Set<string>()
  const enrolments = roster.enrolments.flatMap((one) => {
    const course = courses.get(one.class)
    if (!course) strange.add(one.class)
    return course ? [{ course: course.id, key: one.person, role: one.role, active: one.active }] : []
  })
  for (const name of strange)
    if (!roster.classes.some((one) => one.sourcedId === name))
      problems.push({ file: 'enrollments', line: 0, message: `the class ${name} is not known` })
  const brought = new Set(roster.people.map((one) => one.key))
  // What enrolments call people whom the roster itself does not bring.
  const beside = new Set(roster.enrolments.map((one) => one.person).filter((key) => !brought.has(key)))
  const elsewhere = await records.rosterImports.bySourcedId([...beside])
  const { places, nobody } = placesOf(enrolments, (key) => people.get(key) ?? elsewhere.get(key))
  const strangers = nobody.filter((key) => beside.has(key)).slice(0, MOST_NAMED)
  for (const key of strangers) problems.push({ file: 'enrollments', line: 0, message: `${key} is nobody here` })
  return { places, courseIds: [...new Set(enrolments.map((one) => one.course))], problems }
}

/** Gives a course the term that its roster says, where it has none yet: what somebody set by hand stays. */
async function giveTerm(records: Records, course: RosterCourse, term: RosterTerm | null): Promise<boolean> {
  if (!term || course.term !== '' || term.title === '') return false
  const { startsAt, endsAt } = datesOf(term, course.timeZone)
  await records.courses.change(course.id, {
    term: term.title.slice(0, 60),
    ...(course.startsAt === null && course.endsAt === null && { startsAt: toDate(startsAt), endsAt: toDate(endsAt) }),
  })
  return true
}

/** From the first to the last moment of a term's days; none of both where they do not follow each other. */
function datesOf(term: RosterTerm | null, zone: string): { startsAt: string | null; endsAt: string | null } {
  const at = (day: string, end: boolean) => {
    const read = readMomentCell(day, zone, end)
    return 'value' in read ? read.value : null
  }
  const [startsAt, endsAt] = [at(term?.firstDay ?? '', false), at(term?.lastDay ?? '', true)]
  return startsAt !== null && endsAt !== null && endsAt <= startsAt
    ? { startsAt: null, endsAt: null }
    : { startsAt, endsAt }
}

interface Enrolment {
  course: string
  key: string
  role: string
  active: boolean
}
/** Each person once in each course: where a roster says it twice, being there counts, and the role that comes first by name. */
function placesOf(
  enrolments: readonly Enrolment[],
  personOf: (key: string) => string | undefined,
): { places: PlaceToImport[]; nobody: string[] } {
  const places = new Map<string, PlaceToImport>()
  const nobody = new Set<string>()
  for (const { course, key, role, active } of enrolments) {
    const person = personOf(key)
    if (person === undefined) {
      nobody.add(key)
      continue
    }
    const place = `${course} ${person}`
    const before = places.get(place)
    const wins = !before || (active !== before.active ? active : role < before.role)
    if (wins) places.set(place, { course, person, role, active })
  }
  return { places: [...places.values()], nobody: [...nobody] }
}

/** A code as courses have them: letters, digits, spaces, dots and hyphens. */
function plainCode(code: string): string {
  return (
    code
      .replace(/[^\p{L}\p{N} .-]+/gu, '-')
      .replace(/^[^\p{L}\p{N}]+/u, '')
      .slice(0, 40) || 'class'
  )
}
