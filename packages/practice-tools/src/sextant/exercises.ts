/** One numeric exercise. */
export interface Exercise {
  id: string
  title: string
  question: string
  answer: number
  unit: string
  points: number
}

/** Exercises to choose from. */
export const EXERCISES: readonly Exercise[] = [
  { id: 'altitude', title: 'Noon altitude', question: 'The sextant reads 41° 20′, the index error is 2′ on the arc, dip is 4′. What is the apparent altitude, in minutes of arc?', answer: 2474, unit: '′', points: 20 },
  { id: 'distance', title: 'Distance off', question: 'A light 40 m high dips at eye height 9 m. How far off is it, in nautical miles (2.08 × (√40 + √9))?', answer: 19.4, unit: 'nm', points: 15 },
  { id: 'drift', title: 'Set and drift', question: 'In 3 hours the ship was set 4.5 miles. What is the drift, in knots?', answer: 1.5, unit: 'kn', points: 10 },
  { id: 'longitude', title: 'Longitude by chronometer', question: 'Local noon came at 12 h 24 min UTC. How many degrees west is the ship?', answer: 6, unit: '°', points: 10 },
] // oxfmt-ignore
