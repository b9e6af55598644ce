import { currentSession, isAdministrator, teachesSomething } from './session'

/** Something that the search leads to besides what the service finds. */
export interface PaletteAct {
  text: string
  to: string
  /** Other words under which people look for it. */
  also?: string
}

type For = 'everybody' | 'teaching' | 'administrator'
const ACTS: readonly (PaletteAct & { for: For })[] = [
  { for: 'teaching', text: 'Watch: what needs somebody now', to: '/watch', also: 'start home' },
  { for: 'teaching', text: 'Waiting to be graded', to: '/waiting-work', also: 'grade mark submissions' },
  { for: 'teaching', text: 'Cases: learners whose score is missing', to: '/cases', also: 'support ticket' },
  { for: 'administrator', text: 'Register a tool', to: '/tools/register', also: 'add new install key secret intake' },
  { for: 'administrator', text: 'Register a tool by hand', to: '/tools/register/by-hand', also: 'add new' },
  { for: 'administrator', text: 'Make a course', to: '/courses/new', also: 'new add' },
  { for: 'administrator', text: 'People', to: '/people', also: 'users accounts invite sign-in' },
  {
    for: 'administrator',
    text: 'Identity providers',
    to: '/identity-providers',
    also: 'sign-on single openid connect login sso',
  },
  { for: 'administrator', text: 'Audit: who changed what', to: '/audit', also: 'log history' },
  { for: 'administrator', text: 'Platform keys', to: '/keys', also: 'keyset rotate' },
  { for: 'teaching', text: 'Begin a sweep', to: '/soundings', also: 'sound all test check' },
  { for: 'teaching', text: 'Explain a message', to: '/wire/explain', also: 'paste base string token jwt diagnose' },
  { for: 'teaching', text: 'Refused messages', to: '/wire?outcome=refused', also: 'errors wire log' },
  { for: 'teaching', text: 'Causes, and how often they were right', to: '/wire/causes', also: 'diagnosis' },
  { for: 'everybody', text: 'Your account', to: '/account', also: 'password sessions tokens mail digest' },
  { for: 'everybody', text: 'Glossary', to: '/glossary', also: 'help words' },
]
/** What can be done in the course that one is in. */
const IN_COURSE: readonly { text: string; part: string; also?: string }[] = [
  { text: 'New assignment', part: 'assignments/new', also: 'add link make' },
  { text: 'Make many assignments', part: 'assignments/many', also: 'table bulk' },
  { text: 'Gradebook', part: 'gradebook', also: 'scores points' },
  { text: 'People of the course', part: 'people', also: 'roster learners' },
  { text: 'Outline', part: 'outline', also: 'units' },
]

const words = (text: string) => text.toLocaleLowerCase().split(/[^\p{L}\p{N}]+/u)

/** Acts of which every typed word begins one of their words. @param path where one is */
export function actsFor(typed: string, path: string): PaletteAct[] {
  const asked = words(typed).filter(Boolean)
  if (asked.length === 0 || !currentSession.value) return []
  const mine = { everybody: true, teaching: teachesSomething.value, administrator: isAdministrator.value }
  const course = /^\/courses\/([^/]+)/.exec(path)?.[1]
  const here =
    course === undefined || course === 'new' || !teachesSomething.value
      ? []
      : IN_COURSE.map(({ text, part, also }) => ({
          text: `${text} (this course)`,
          to: `/courses/${course}/${part}`,
          also,
        }))
  return [...here, ...ACTS.filter((one) => mine[one.for])]
    .filter(({ text, also = '' }) => {
      const known = words(`${text} ${also}`)
      return asked.every((word) => known.some((one) => one.startsWith(word)))
    })
    .map(({ text, to }) => ({ text, to }))
    .slice(0, 6)
}
