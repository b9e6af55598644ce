// Skerrow Maritime Academy: people, courses and assignments of the demo. All of it is made up.

export const PASSWORD = 'lantern-and-lead-line'

export const TECHNOLOGIST = { username: 'ingrid', fullName: 'Ingrid Valesdottir' }

export const INSTRUCTORS = [
  { username: 'tomas', givenName: 'Tomas', familyName: 'Okaforlind', courses: ['HYD 210', 'NAV 120'] },
  { username: 'maren', givenName: 'Maren', familyName: 'Achterboom', courses: ['MET 130'] },
  { username: 'priyanka', givenName: 'Priyanka', familyName: 'Sundqvael', courses: ['WKR 115'] },
]
export const ASSISTANT = { username: 'oren', givenName: 'Oren', familyName: 'Vasquelund', course: 'HYD 210' }

export const COURSES = [
  { code: 'HYD 210', title: 'Hydrographic Surveying', categories: ['Drills', 'Projects', 'Exam'] },
  { code: 'NAV 120', title: 'Coastal Navigation', categories: ['Drills', 'Chart work'] },
  { code: 'MET 130', title: 'Marine Weather', categories: ['Drills', 'Observations'] },
  { code: 'WKR 115', title: 'Watchkeeping Reports', categories: ['Drills', 'Reports'] },
]

const GIVEN = [
  'Aino', 'Bjarte', 'Chiamaka', 'Dagny', 'Eilidh', 'Farrukh', 'Gwenaël', 'Hinemoa', 'Ilse', 'Jarmila', 'Kwabena', 'Lieselotte',
  'Marisol', 'Nadezhda', 'Oddvar', 'Paloma', 'Quillan', 'Rasmus', 'Siobhán', 'Thandeka', 'Ulrikke', 'Vesna', 'Wiremu', 'Yevgenia',
] // oxfmt-ignore
const FAMILY = [
  'Adebrandt', 'Bergasund', 'Castelhoff', 'Drzewinska', 'Eikenvoll', 'Falkonberi', 'Grünwaldsen', 'Havelaarsen', 'Ingebrikt',
  'Jørgholm', 'Kowalandt', 'Lindovarri', 'Mbekistad', 'Noordhaven', 'Oyelarsen', 'Petrovann', 'Quisberg', 'Rautavesi',
  'Strandovic', 'Tanakivi', 'Ustinvoort', 'Vørland', 'Wanjikström', 'Zelenvik',
] // oxfmt-ignore

/** Names that a gradebook has to get right. */
const SPECIAL = [
  { username: 'niamh', givenName: 'Niamh', familyName: "O'Drevnakh" },
  { username: 'tamar', givenName: 'თამარ', familyName: 'ზღვისპირელი' },
  { username: 'layan', givenName: 'ليان', familyName: 'البحراوندي' },
  {
    username: 'maximiliana',
    givenName: 'Maximiliana Theodolinde Anastasia',
    familyName: 'von und zu Hohenklippenburg-Wattenmeersdorfinghausen',
  },
]

const LEARNERS_A_COURSE = 24

export interface Learner {
  username: string
  givenName: string
  familyName: string
  fullName: string
  /** Their codes. */
  courses: string[]
}

/** 24 learners a course, every sixth of them in the next course, too. The four special names are in the first. */
export function learners(): Learner[] {
  const all = new Map<string, Learner>()
  COURSES.forEach((course, c) => {
    for (let i = 0; i < LEARNERS_A_COURSE; i++) {
      const special = c === 0 ? SPECIAL[i - 2] : undefined
      const givenName = special?.givenName ?? GIVEN[(i + 5 * c) % GIVEN.length]!
      const familyName = special?.familyName ?? FAMILY[(7 * i + 11 * c) % FAMILY.length]!
      const username = special?.username ?? `${plain(givenName)}.${plain(familyName)}`.slice(0, 40)
      const person = all.get(username) ?? {
        username,
        givenName,
        familyName,
        fullName: fullName({ givenName, familyName }),
        courses: [],
      }
      person.courses.push(course.code)
      if (i % 6 === 5) person.courses.push(COURSES[(c + 1) % COURSES.length]!.code)
      all.set(username, person)
    }
  })
  return [...all.values()].map((person) => ({ ...person, courses: [...new Set(person.courses)] }))
}

export const fullName = ({ givenName, familyName }: { givenName: string; familyName: string }) =>
  `${givenName} ${familyName}`

function plain(text: string): string {
  return text
    .normalize('NFKD')
    .toLowerCase()
    .replaceAll('ø', 'o')
    .replace(/[^a-z]/g, '')
}

export interface AssignmentOfDemo {
  course: string
  title: string
  points: string
  category: string | null
  custom: Record<string, string>
  publish: boolean
  unit?: string
  due?: string
  tool?: 'spare' | 'sextant'
  /** How many learners hand in, and how many more only open it. */
  worked?: number
  opened?: number
  sound?: boolean
}

/** One assignment each at a different mark; `worked` is how many learners hand in. */
export const ASSIGNMENTS: readonly AssignmentOfDemo[] = [
  {
    course: 'HYD 210',
    title: 'Soundings and datum',
    unit: 'Reducing soundings',
    due: '2026-12-04T22:59:00.000Z',
    points: '100',
    category: 'Drills',
    custom: { drill: 'soundings' },
    publish: true,
    worked: 9,
    sound: true,
  },
  {
    course: 'HYD 210',
    title: 'Bends for the lead line',
    unit: 'Lead line and rope',
    due: '2026-11-27T22:59:00.000Z',
    points: '20',
    category: 'Drills',
    custom: { drill: 'bends' },
    publish: true,
    opened: 2,
  },
  {
    course: 'HYD 210',
    title: 'Transducer offsets',
    unit: 'Reducing soundings',
    due: '2026-12-11T22:59:00.000Z',
    points: '30',
    category: 'Projects',
    custom: { drill: 'soundings', part: 'offsets' },
    publish: true,
  },
  {
    course: 'HYD 210',
    title: 'Swath planning',
    unit: 'Planning a survey',
    points: '40',
    category: null,
    custom: { drill: 'soundings', part: 'swath' },
    publish: false,
  },
  {
    course: 'NAV 120',
    title: 'Mooring knots',
    unit: 'Alongside',
    due: '2026-12-02T22:59:00.000Z',
    points: '12.5',
    category: 'Drills',
    custom: { drill: 'bends' },
    publish: true,
    worked: 6,
    sound: true,
  },
  {
    course: 'NAV 120',
    title: 'Noon altitude',
    unit: 'By the sun',
    due: '2026-12-09T22:59:00.000Z',
    points: '20',
    category: 'Chart work',
    custom: {},
    publish: true,
    tool: 'sextant',
  },
  {
    course: 'NAV 120',
    title: 'Knots under way',
    unit: 'Alongside',
    points: '10',
    category: 'Drills',
    custom: { drill: 'bends' },
    publish: true,
    tool: 'spare',
    sound: true,
  },
  {
    course: 'MET 130',
    title: 'Clouds and fronts',
    unit: 'Reading the sky',
    due: '2026-12-03T22:59:00.000Z',
    points: '25',
    category: 'Drills',
    custom: { drill: 'clouds' },
    publish: true,
    worked: 4,
    sound: true,
  },
  {
    course: 'MET 130',
    title: 'Squall lines',
    unit: 'Reading the sky',
    points: '15',
    category: 'Observations',
    custom: { drill: 'clouds', practice_fault: 'score_above_maximum' },
    publish: true,
    worked: 2,
  },
  {
    course: 'WKR 115',
    title: 'Splices for the log line',
    points: '10',
    category: 'Drills',
    custom: { drill: 'bends' },
    publish: true,
    worked: 3,
  },
]

/** Identifiers of units by course and title. */
export type Units = Map<string, string>

/** Units of the courses, in their order; hidden ones are still being made. */
export const UNITS: readonly { course: string; titles: string[]; hidden?: string[] }[] = [
  {
    course: 'HYD 210',
    titles: ['Lead line and rope', 'Reducing soundings', 'Planning a survey'],
    hidden: ['Planning a survey'],
  },
  { course: 'NAV 120', titles: ['Alongside', 'By the sun', 'On the chart', 'On deck'], hidden: ['On deck'] },
  { course: 'MET 130', titles: ['Reading the sky'] },
]

export const WELCOME = {
  'HYD 210':
    '<h2>Welcome aboard</h2><p>We sound, reduce and draw. Work through the units in their order; the survey itself is on <strong>12 December</strong>, whatever the weather.</p>',
  'NAV 120': '<p>Bring your own dividers. What is due next stands on your page of courses.</p>',
}
