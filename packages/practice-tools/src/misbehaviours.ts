/** What a practice tool can be told to do wrong, so that there is something true to find. */
export const MISBEHAVIOURS = {
  wrong_secret: 'Verify with another secret than the one agreed',
  refuses_frames: 'Refuse to be shown in a frame',
  slow: 'Answer launches only after twelve seconds',
  error_500: 'Answer launches with a server error',
  score_above_maximum: 'Send a score above 1',
  sends_twice: 'Send every score twice, the second time as a repetition of the same message',
  sends_late: 'Send scores only after a minute',
  refuses_test_learner: 'Refuse the platform’s test learner',
  broken_xml: 'Send scores as broken XML',
} as const

export type Misbehaviour = keyof typeof MISBEHAVIOURS

export function readMisbehaviours(text: string | undefined): Misbehaviour[] {
  return (text ?? '').split(/[\s,]+/).filter((one): one is Misbehaviour => one in MISBEHAVIOURS)
}
