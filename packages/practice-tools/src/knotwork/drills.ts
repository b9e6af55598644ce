/** One question of a drill; `answer` is the index of the right choice. */
export interface Question {
  text: string
  choices: readonly string[]
  answer: number
}
export interface Drill {
  id: string
  title: string
  questions: readonly Question[]
}

/** The shelf of drills. Which one a link shows is said by its custom parameter `drill`. */
export const DRILLS: readonly Drill[] = [
  {
    id: 'bends',
    title: 'Bends and hitches',
    questions: [
      {
        text: 'Which knot makes a loop that neither slips nor jams?',
        choices: ['Bowline', 'Clove hitch', 'Sheet bend'],
        answer: 0,
      },
      {
        text: 'Which joins two ropes of different thickness?',
        choices: ['Reef knot', 'Sheet bend', 'Figure eight'],
        answer: 1,
      },
      {
        text: 'Which makes a line fast to a post, and is quickly cast off?',
        choices: ['Bowline', 'Carrick bend', 'Clove hitch'],
        answer: 2,
      },
    ],
  },
  {
    id: 'soundings',
    title: 'Soundings and datum',
    questions: [
      {
        text: 'To what are charted depths reduced?',
        choices: ['Chart datum', 'Mean sea level', 'The keel'],
        answer: 0,
      },
      {
        text: 'The echo took 0.2 s at 1500 m/s. How deep is the water?',
        choices: ['300 m', '150 m', '75 m'],
        answer: 1,
      },
      {
        text: 'What must be added for the draught of the transducer?',
        choices: ['Nothing', 'The tide', 'Its depth below the surface'],
        answer: 2,
      },
    ],
  },
  {
    id: 'clouds',
    title: 'Clouds and fronts',
    questions: [
      { text: 'Which cloud first announces a warm front?', choices: ['Cirrus', 'Cumulonimbus', 'Stratus'], answer: 0 },
      {
        text: 'How does the wind turn as a cold front passes in the north?',
        choices: ['It backs', 'It veers', 'It drops to calm'],
        answer: 1,
      },
      { text: 'Which shows an unstable layer of air?', choices: ['Fog', 'Stratus', 'Towering cumulus'], answer: 2 },
    ],
  },
]

export function drillOf(id: string | undefined): Drill {
  return DRILLS.find((drill) => drill.id === id) ?? DRILLS[0]!
}

/** The fraction of right answers with four decimals, as it is sent. */
export function fractionOf(drill: Drill, answers: readonly (number | undefined)[]): string {
  const right = drill.questions.filter((question, i) => question.answer === answers[i]).length
  return String(Number((right / drill.questions.length).toFixed(4)))
}
