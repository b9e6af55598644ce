import { HOSTILE_FAULTS } from './parts/hostile.js'

/** What the links of a practice tool can be told to do wrong, so that there is something true to find. */
export const MISBEHAVIOURS = {
  wrong_secret: 'Verify with another secret than the one agreed',
  clock_ahead: 'Verify by a clock that runs ten minutes ahead',
  refuses_frames: 'Refuse to be shown in a frame',
  slow: 'Answer launches only after twelve seconds',
  error_500: 'Answer launches with a server error',
  ...HOSTILE_FAULTS,
  once_only: 'Let everybody in once and never again',
  new_account: 'Take everybody for somebody new at each launch',
  lost_on_reload: 'Forget who it is when the page is loaded again',
  score_above_maximum: 'Send a score above 1',
  sends_twice: 'Send every score twice, the second time as a repetition of the same message',
  sends_late: 'Send scores only after a minute',
  sends_nothing: 'Never send scores',
  score_wrong_secret: 'Sign scores with another secret than the one agreed',
  score_secret_blank: 'Sign scores with a blank behind the secret',
  score_other_hash: 'Send scores with the hash of another body',
  score_old_clock: 'Sign scores by a clock that runs an hour behind',
  score_other_result: 'Send scores for a result that nobody knows',
  refuses_test_learner: 'Refuse the platform’s test learner',
  broken_xml: 'Send scores as broken XML',
} as const

export type Misbehaviour = keyof typeof MISBEHAVIOURS

export function readMisbehaviours(text: string | undefined): Misbehaviour[] {
  return (text ?? '').split(/[\s,]+/).filter((one): one is Misbehaviour => one in MISBEHAVIOURS)
}
