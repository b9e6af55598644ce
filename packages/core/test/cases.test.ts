import {
  CASE_CODES,
  caseInWords,
  judgeCase,
  learnerLetter,
  reminder,
  supportQuestion,
  toldToLearner,
  type CaseFacts,
  type CaseNames,
} from '@bathyscribe/core/cases'
import { WORK_STATES } from '@bathyscribe/core/scores'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const AT = new Date('2026-11-02T10:00:00Z')
const LATER = new Date('2026-11-02T11:00:00Z')
const NOTHING: CaseFacts = {
  state: 'never_opened',
  points: null,
  overridden: false,
  released: true,
  isShown: true,
  returnsScores: true,
  isActive: true,
  openedAt: null,
  heardAt: null,
  failedLaunchAt: null,
  obstacle: null,
  refusedBy: 'tool',
  elsewhere: null,
  unclaimed: 0,
  othersScored: 0,
}
const opened: Partial<CaseFacts> = { state: 'opened', openedAt: AT }
const said = (facts: Partial<CaseFacts>) => {
  const { code, certainty, actor } = judgeCase({ ...NOTHING, ...facts })
  return `${code} ${certainty} ${actor}`
}

describe('what explains a case', () => {
  it.each<[string, Partial<CaseFacts>]>([
    ['never_opened proven learner', {}],
    ['cannot_open proven technologist', { obstacle: 'technologist' }],
    // Whoever has opened it once is not told that they cannot, as long as something else explains it.
    ['nothing_came unknown technologist', { ...opened, obstacle: 'instructor' }],
    ['not_handed_in likely learner', { ...opened, othersScored: 3 }],
    ['unclaimed likely technologist', { ...opened, othersScored: 3, unclaimed: 1 }],
    ['launch_failed proven technologist', { failedLaunchAt: AT }],
    ['launch_failed proven technologist', { ...opened, failedLaunchAt: LATER }],
    ['work_goes_on proven learner', { ...opened, state: 'started', heardAt: LATER, failedLaunchAt: AT }],
    ['no_final_score proven tool', { ...opened, state: 'submitted', heardAt: LATER, othersScored: 3 }],
    ['waits_for_grading proven instructor', { ...opened, state: 'waiting', heardAt: LATER }],
    ['grading_failed proven tool', { ...opened, state: 'failed', heardAt: LATER }],
    ['cleared proven tool', { ...opened, state: 'cleared', heardAt: LATER }],
    ['sends_no_scores proven nobody', { ...opened, returnsScores: false, othersScored: 3 }],
    ['in_another_column proven instructor', { ...opened, elsewhere: { tied: true } }],
    ['in_another_column likely instructor', { ...opened, elsewhere: { tied: false } }],
    ['left_course proven instructor', { ...opened, state: 'refused', isActive: false }],
    ['score_refused proven tool', { ...opened, state: 'refused' }],
    ['score_refused proven technologist', { ...opened, state: 'refused', refusedBy: 'technologist' }],
    ['stands proven nobody', { ...opened, state: 'graded', points: '9' }],
    ['stands proven nobody', { ...opened, state: 'commented', points: '9', isActive: false }],
    ['held_back proven instructor', { ...opened, state: 'graded', points: '9', released: false }],
    ['set_by_hand proven nobody', { state: 'graded', points: '9', overridden: true }],
    ['not_shown proven instructor', { isShown: false, obstacle: 'instructor' }],
    ['not_shown proven instructor', { ...opened, isShown: false, state: 'graded', points: '9' }],
    ['exempt proven nobody', { state: 'exempt', points: '9', released: false }],
  ])('is %s', (wanted, facts) => {
    expect(said(facts)).toBe(wanted)
  })

  it('is proven only of what was seen, whatever the facts', () => {
    const moment = fc.option(fc.constantFrom(AT, LATER))
    fc.assert(
      fc.property(
        fc.record<CaseFacts>({
          state: fc.constantFrom(...WORK_STATES),
          points: fc.option(fc.constant('9')),
          overridden: fc.boolean(),
          released: fc.boolean(),
          isShown: fc.boolean(),
          returnsScores: fc.boolean(),
          isActive: fc.boolean(),
          openedAt: moment,
          heardAt: moment,
          failedLaunchAt: moment,
          obstacle: fc.option(fc.constantFrom('technologist', 'instructor')),
          refusedBy: fc.constantFrom('tool', 'technologist'),
          elsewhere: fc.option(fc.record({ tied: fc.boolean() })),
          unclaimed: fc.nat(3),
          othersScored: fc.nat(3),
        }),
        (facts) => {
          const { code, certainty } = judgeCase(facts)
          if (code === 'never_opened') expect([facts.openedAt, facts.heardAt]).toEqual([null, null])
          if (code === 'unclaimed' || code === 'not_handed_in') expect(certainty).toBe('likely')
          expect(certainty === 'unknown').toBe(code === 'nothing_came')
        },
      ),
    )
  })
})

const NAMES: CaseNames = {
  learner: 'Niamh Testmann',
  tool: 'Knotwork Drills',
  assignment: 'Bends',
  course: 'HYD 210 Hydrographic Surveying',
  points: '6.45',
  outOf: '10',
  at: '2026-11-02 11:00 Europe/Oslo',
  refusal: 'The score is above 1.',
  obstacle: 'The course is closed.',
  column: 'Bends (tool)',
  unclaimed: 2,
  othersScored: 1,
}

describe('a case in words', () => {
  it.each(CASE_CODES)('%s is a whole sentence for everybody, in both languages to the learner', (code) => {
    const judgement = { code, certainty: 'proven', actor: 'tool' } as const
    const { sentence, act } = caseInWords(judgement, NAMES)
    const [en, de] = [toldToLearner(judgement, NAMES, 'en'), toldToLearner(judgement, NAMES, 'de')]
    for (const text of [sentence, act, en, de]) {
      expect(text).toMatch(/^[\p{Lu}“„\d].*[.:]$/u)
      expect(text).not.toMatch(/undefined|null|\s\s|\.\./)
    }
    expect(en).not.toBe(de)
    // Learners are spoken to, not about.
    expect(en).not.toContain('Niamh')
    expect(de).not.toContain('Niamh')
  })

  it('says of a score what was sent, and of several messages that they are several', () => {
    expect(caseInWords({ code: 'stands', certainty: 'proven', actor: 'nobody' }, NAMES).sentence).toBe(
      'The score is here: 6.45 of 10 points, received 2026-11-02 11:00 Europe/Oslo.',
    )
    const { sentence } = caseInWords({ code: 'unclaimed', certainty: 'likely', actor: 'technologist' }, NAMES)
    expect(sentence).toContain('2 messages of Knotwork Drills were refused without saying whose they are')
    expect(caseInWords({ code: 'not_handed_in', certainty: 'likely', actor: 'learner' }, NAMES).sentence).toContain(
      'scores of one other person,',
    )
  })

  it('says who has to act as the cause has it', () => {
    const act = (actor: 'tool' | 'technologist' | 'instructor') =>
      caseInWords({ code: 'score_refused', certainty: 'proven', actor }, NAMES).act
    expect(new Set([act('tool'), act('technologist'), act('instructor')]).size).toBe(3)
  })

  it('begins and ends as a letter does, in either language', () => {
    const judgement = { code: 'waits_for_grading', certainty: 'proven', actor: 'instructor' } as const
    expect(learnerLetter(judgement, { ...NAMES, from: 'Skerrow Maritime Academy' }, 'en')).toBe(
      'Hello Niamh Testmann,\n\nthis is about “Bends” (HYD 210 Hydrographic Surveying). Your work is handed in and waits to be graded by your instructor.\n\nSkerrow Maritime Academy\n',
    )
    expect(learnerLetter(judgement, { ...NAMES, from: 'Skerrow' }, 'de')).toMatch(/^Guten Tag Niamh Testmann,\n\nes geht um „Bends“/)
  }) // oxfmt-ignore

  it('asks support by identifiers alone', () => {
    const facts = {
      tool: 'Knotwork Drills',
      user: 'p81s',
      link: 'rl-7',
      context: 'c-1',
      openedAt: '2026-11-02T10:00:00Z',
      heard: '',
      platform: 'https://desk.skerrow.example',
      from: 'Skerrow',
    }
    const text = supportQuestion(facts, 'en')
    for (const known of ['p81s', 'rl-7', 'c-1', facts.openedAt, facts.platform]) expect(text).toContain(known)
    expect(text).toContain('Nothing has been sent to us about it since.')
    expect(supportQuestion({ ...facts, heard: 'Submitted, PendingManual', openedAt: '' }, 'de')).toMatch(
      /zu einer Zeit, die uns nicht vorliegt.*Submitted, PendingManual/s,
    )
  })

  it('reminds with the date, where there is one', () => {
    const names = {
      assignment: 'Bends',
      course: 'HYD 210',
      dueAt: '',
      isPastDue: false,
      address: 'https://desk.example/x',
    }
    expect(reminder(names, 'en')).toBe('“Bends” (HYD 210) has not been opened yet. Here it is: https://desk.example/x')
    expect(reminder({ ...names, dueAt: '2026-12-12 23:59' }, 'de')).toContain(
      '; abzugeben ist es bis 2026-12-12 23:59.',
    )
    expect(reminder({ ...names, dueAt: '2026-11-01 23:59', isPastDue: true }, 'en')).toContain(
      '; it was due 2026-11-01 23:59.',
    )
  })
})
