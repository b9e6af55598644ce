import { Problem } from '../result/index.js'
import { readTable, type TableProblem } from '../formats/table.js'
import { cutEnd, entryOf } from '../text/index.js'
import { plainUsername, type CourseRole } from '../identity/index.js'

type ImportedRole = Exclude<CourseRole, 'test_learner'>

/** Somebody that a roster names. */
export interface RosterPerson {
  /** What enrolments of the same roster call the person. */
  key: string
  /** Empty where the roster knows none. */
  sourcedId: string
  /** What the roster itself says the person signs in or is reached by: user name, else address, in one spelling. */
  stated: string
  /** The user name to be given to who is new here. */
  username: string
  /** Whether `username` is what was stated. One that had to be made up says nothing of who somebody is. */
  exact: boolean
  givenName: string
  familyName: string
  email: string
}
export interface RosterClass {
  sourcedId: string
  code: string
  title: string
  term: RosterTerm | null
}
/** When a class is, as calendar days of its school (`2026-08-17`); empty where the roster says none. */
export interface RosterTerm {
  title: string
  firstDay: string
  lastDay: string
}
export interface RosterEnrolment {
  person: string
  class: string
  role: ImportedRole
  active: boolean
}
/** A roster as read, whichever form it came in. `whole`: who is not named in a class any more has left it. */
export interface Roster {
  people: RosterPerson[]
  classes: RosterClass[]
  enrolments: RosterEnrolment[]
  whole: boolean
  problems: RosterProblem[]
}
/** A row that is left out, and why. */
export interface RosterProblem {
  file: string
  line: number
  message: string
}
export type RosterRefusal = Problem<
  TableProblem['code'] | 'roster.file_missing' | 'roster.version' | 'roster.person_columns'
>

/** Far more than a school has; a file beyond it is a mistake. */
export const ROSTER_LIMITS = { characters: 64_000_000, rows: 500_000 } as const

const ONEROSTER_ROLES: Record<string, ImportedRole | null> = {
  student: 'learner',
  teacher: 'instructor',
  aide: 'teaching_assistant',
  proctor: null,
  administrator: null,
  guardian: null,
  parent: null,
  relative: null,
}

/**
 * Reads OneRoster 1.2 CSV files (sections 3 to 5): manifest, users, classes, enrollments; 1.1 files of the same names are taken, too. Rows of roles that work in no course are
 * left out silently, broken ones with a word each.
 * @param files texts by file name
 */
export function readOneRoster(files: Readonly<Record<string, string>>): Roster | RosterRefusal {
  const problems: RosterProblem[] = []
  const manifest = cellsOf(files['manifest.csv'], 'manifest.csv')
  if (manifest instanceof Problem) return manifest
  const property = new Map(manifest.rows.map(({ cells }) => [cells['propertyName'] ?? '', cells['value'] ?? '']))
  if (!/^1\.[12]$/.test(property.get('oneroster.version') ?? ''))
    return new Problem('roster.version', property.get('oneroster.version') ?? 'none')
  const modes = ['users', 'classes', 'enrollments'].map((name) => property.get(`file.${name}`))
  const read = ['users.csv', 'classes.csv', 'enrollments.csv'].map((name, i) =>
    modes[i] === 'absent' ? { rows: [] } : cellsOf(files[name], name),
  )
  for (const one of read) if (one instanceof Problem) return one
  const [users, classes, enrolments] = read as Cells[]
  // Terms are welcome, not needed: a roster of people and classes alone is one, too.
  const sessions = cellsOf(files['academicSessions.csv'] ?? '', 'academicSessions.csv')
  if (sessions instanceof Problem) return sessions
  const terms = termsOf(sessions.rows)
  const people: RosterPerson[] = []
  for (const { line, cells } of users!.rows) {
    const sourcedId = cells['sourcedId'] ?? ''
    if (!sourcedId) problems.push({ file: 'users.csv', line, message: 'has no sourcedId' })
    else if (cells['status'] === 'tobedeleted' || cells['enabledUser'] === 'false') continue
    else if (!(cells['givenName'] || cells['familyName']))
      problems.push({ file: 'users.csv', line, message: 'has no name' })
    else
      people.push({
        key: sourcedId,
        sourcedId,
        ...namesOf(cells['username'] ?? '', cells['email'] ?? '', sourcedId),
        givenName: cells['preferredGivenName'] || cells['givenName'] || '',
        familyName: cells['preferredFamilyName'] || cells['familyName'] || '',
        email: cells['email'] ?? '',
      })
  }
  return {
    people,
    classes: classes!.rows.flatMap(({ line, cells }) => {
      const { sourcedId = '', title = '', status } = cells
      if (sourcedId && title)
        return status === 'tobedeleted'
          ? []
          : [{ sourcedId, title, code: cells['classCode'] || title.slice(0, 40), term: termOf(cells, terms) }]
      problems.push({ file: 'classes.csv', line, message: 'has no sourcedId or no title' })
      return []
    }),
    enrolments: enrolments!.rows.flatMap(({ line, cells }) => {
      const role = entryOf(ONEROSTER_ROLES, (cells['role'] ?? '').toLowerCase())
      const { userSourcedId = '', classSourcedId = '' } = cells
      if (role === null) return []
      if (role && userSourcedId && classSourcedId)
        return [{ person: userSourcedId, class: classSourcedId, role, active: cells['status'] !== 'tobedeleted' }]
      problems.push({
        file: 'enrollments.csv',
        line,
        message: role ? 'names no user or no class' : `has the role “${(cells['role'] ?? '').slice(0, 40)}”`,
      })
      return []
    }),
    whole: modes[2] === 'bulk',
    problems,
  }
}

const ROLES: Record<string, ImportedRole> = {
  learner: 'learner',
  student: 'learner',
  instructor: 'instructor',
  teacher: 'instructor',
  assistant: 'teaching_assistant',
  'teaching assistant': 'teaching_assistant',
  teaching_assistant: 'teaching_assistant',
}
const HEADS: Record<string, string> = {
  username: 'username', 'user name': 'username', login: 'username', user: 'username',
  sourcedid: 'sourcedId', 'sourced id': 'sourcedId', identifier: 'sourcedId', id: 'sourcedId', 'student id': 'sourcedId',
  'given name': 'givenName', givenname: 'givenName', 'first name': 'givenName', given: 'givenName',
  'family name': 'familyName', familyname: 'familyName', 'last name': 'familyName', surname: 'familyName', family: 'familyName',
  name: 'name', 'full name': 'name', email: 'email', 'e-mail': 'email', mail: 'email',
  course: 'course', class: 'course', section: 'course', role: 'role', state: 'state', status: 'state',
} // oxfmt-ignore

/**
 * Reads a plain table of people: user name, names, email, course, role, state. A person may stand in several lines, one for each course. Never whole: nobody leaves by not
 * being named.
 * @param course for lines that name none
 */
export function readRosterTable(text: string, course: string | undefined): Roster | RosterRefusal {
  const table = readTable(
    text,
    (head) =>
      entryOf(HEADS, head.trim().toLowerCase().replace(/[_-]+/g, ' ')) ?? entryOf(HEADS, head.trim().toLowerCase()),
    ROSTER_LIMITS,
  )
  if (table instanceof Problem) return table
  if (!['username', 'sourcedId', 'email'].some((one) => table.columns.includes(one)))
    return new Problem('roster.person_columns', table.columns.join(', '))
  const problems: RosterProblem[] = []
  const people = new Map<string, RosterPerson>()
  const enrolments: RosterEnrolment[] = []
  for (const { line, cells } of table.rows) {
    const wrong = (message: string) => void problems.push({ file: 'table', line, message })
    const key = cells['sourcedId'] || plainUsername(cells['username'] || cells['email'] || '')
    const role = cells['role'] ? entryOf(ROLES, cells['role'].toLowerCase()) : 'learner'
    if (!key) wrong('says nobody')
    else if (!role) wrong(`has the role “${(cells['role'] ?? '').slice(0, 40)}”`)
    else {
      const [family = '', given = ''] = (cells['name'] ?? '').includes(',')
        ? cells['name']!.split(',').map((one) => one.trim())
        : splitName(cells['name'] ?? '')
      people.set(key, {
        key,
        sourcedId: cells['sourcedId'] ?? '',
        ...namesOf(cells['username'] ?? '', cells['email'] ?? '', key),
        givenName: cells['givenName'] || given,
        familyName: cells['familyName'] || family,
        email: cells['email'] ?? '',
      })
      const named = cells['course'] || course
      if (named)
        enrolments.push({
          person: key,
          class: named,
          role,
          active: !/^(dropped|inactive|tobedeleted|deleted|left)$/i.test(cells['state'] ?? ''),
        })
    }
  }
  const classes = [...new Set(enrolments.map((one) => one.class))]
  return {
    people: [...people.values()],
    classes: classes.map((code) => ({ sourcedId: code, code, title: '', term: null })),
    enrolments,
    whole: false,
    problems,
  }
}

function termsOf(rows: Cells['rows']): Map<string, RosterTerm> {
  const day = (text: string | undefined) => (/^\d{4}-\d{2}-\d{2}$/.test(text ?? '') ? text! : '')
  return new Map(
    rows
      .filter(({ cells }) => cells['status'] !== 'tobedeleted')
      .map(({ cells }) => [
        cells['sourcedId'] ?? '',
        { title: cells['title'] ?? '', firstDay: day(cells['startDate']), lastDay: day(cells['endDate']) },
      ]),
  )
}

/** The first term that a class names and the roster describes (`termSourcedIds`; several stand between commas). */
function termOf(cells: Record<string, string>, terms: ReadonlyMap<string, RosterTerm>): RosterTerm | null {
  for (const id of (cells['termSourcedIds'] ?? cells['termSourcedId'] ?? '').split(',')) {
    const term = terms.get(id.trim())
    if (term) return term
  }
  return null
}

/** Family name first, given names second: the last word of a name is taken as the family's. */
function splitName(name: string): [string, string] {
  const words = name.trim().split(/\s+/)
  return [words.length > 1 ? words.at(-1)! : (words[0] ?? ''), words.slice(0, -1).join(' ')]
}

const LONGEST_USERNAME = 56

/** What a person is called by the roster, and the user name made of it: letters of every script stay, what cannot stand in one becomes a hyphen. */
function namesOf(username: string, email: string, key: string): Pick<RosterPerson, 'stated' | 'username' | 'exact'> {
  const stated = plainUsername(username || email || key)
  const wanted = plainUsername(username || email.split('@')[0]! || key)
  const plain = wanted.replace(/[^\p{Ll}\p{Lo}\p{Lm}\p{M}\p{N}._-]+/gu, '-').replace(/^[^\p{Ll}\p{Lo}\p{N}]+/u, '')
  const made = cutEnd([...plain].slice(0, LONGEST_USERNAME).join(''), '-')
  const usable = [...made].length >= 2 ? made : `${made || 'person'}-1`
  return { stated, username: usable, exact: username !== '' && usable === stated }
}

interface Cells {
  rows: { line: number; cells: Record<string, string> }[]
}
function cellsOf(text: string | undefined, name: string): Cells | RosterRefusal {
  if (text === undefined) return new Problem('roster.file_missing', name)
  if (text.trim() === '') return { rows: [] }
  const table = readTable(text, (head) => head, ROSTER_LIMITS)
  return table instanceof Problem ? new Problem(table.code, `${name} ${table.detail}`) : table
}
