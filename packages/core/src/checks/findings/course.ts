import { passes, plain, skips, tells, type RefusalFacts } from './definition.js'
import { NO_SCORE } from './score.js'
import { NO_VISIT } from './visits.js'

/** What is found of the assignment itself, and what became of a sounding that found nothing. */
export const COURSE = {
  preflight: { clean: passes(() => 'Preflight has nothing to remark.') },
  published: {
    draft: tells('warn', () => ({
      statement: 'The assignment is a draft: learners cannot see it yet.',
      remedy: 'Publish it when it is ready.',
    })),
  },
  'not tried': {
    ...NO_SCORE,
    ...NO_VISIT,
    stage_before: skips(({ stage }: { stage: string }) => `Not tried, because “${plain(stage)}” did not pass.`),
  },
  sounding: {
    service_stopped: skips(() => 'The service was stopped in the middle; run it again.'),
    run_again: skips(() => 'The service was stopped in the middle; it is run again.'),
    not_finished: skips(() => 'It could not be finished; run it again.'),
  },
  /** What a tool said when it sent a person back. */
  return: { complained: tells('warn', ({ words }: { words: string }) => ({ statement: words })) },
  link: {
    person_gone: skips(() => 'The person who started the sweep is gone.'),
    refused: tells('skipped', ({ refusal }: { refusal: RefusalFacts }, explain) => ({
      statement: explain(refusal).statement,
    })),
  },
} as const
