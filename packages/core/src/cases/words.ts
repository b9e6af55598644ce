import type { LetterLanguage } from '../diagnosis/index.js'
import type { CaseActor, CaseCode, CaseJudgement } from './judge.js'

/** What stands in sentences about a case. Moments are written out already, in the zone of the course. */
export interface CaseNames {
  learner: string
  tool: string
  assignment: string
  course: string
  points: string | null
  outOf: string
  /** When it happened that the case is about; empty where it never did. */
  at: string
  /** Why a score was refused, and what keeps the person out, as sentences of ours. */
  refusal: string
  obstacle: string
  /** The tool’s own column. */
  column: string
  unclaimed: number
  othersScored: number
}

interface Words {
  sentence: (names: CaseNames) => string
  act: (names: CaseNames, actor: CaseActor) => string
  /** To the learner, in each language: what is so, and what it means for them. */
  learner: Readonly<Record<LetterLanguage, (names: CaseNames) => string>>
}

const TO_SUPPORT = 'Send the text to the tool’s support that stands below.'
const earned = ({ points, outOf }: CaseNames) => (points === null ? 'no points' : `${points} of ${outOf} points`)
const verdient = ({ points, outOf }: CaseNames) => (points === null ? 'keine Punkte' : `${points} von ${outOf} Punkten`)
const many = (n: number, one: string, more: string) => (n === 1 ? `one ${one}` : `${n} ${more}`)

const WORDS: Readonly<Record<CaseCode, Words>> = {
  exempt: {
    sentence: ({ learner }) => `${learner} is exempt: the assignment counts neither for nor against them.`,
    act: () => 'Nothing is to be done. Include the learner again in the gradebook if that was not meant.',
    learner: {
      en: () => 'You are exempt from this assignment: it counts neither for nor against you.',
      de: () => 'Sie sind von dieser Aufgabe befreit: Sie zählt weder für noch gegen Sie.',
    },
  },
  held_back: {
    sentence: (names) => `The result is here (${earned(names)}), but results of this assignment are not shown to learners.`,
    act: () => 'Show the results of this column in the gradebook when learners may see them.',
    learner: {
      en: () => 'Your work has arrived. The results of this assignment are not shown yet.',
      de: () => 'Ihre Arbeit ist angekommen. Die Ergebnisse dieser Aufgabe werden noch nicht angezeigt.',
    },
  },
  not_shown: {
    sentence: () => 'Learners do not see the assignment: it is a draft, or its unit is hidden.',
    act: () => 'Publish it, and its unit, if learners are to work on it.',
    learner: {
      en: () => 'This assignment is not open to learners at present.',
      de: () => 'Diese Aufgabe ist zurzeit nicht für Lernende freigegeben.',
    },
  },
  set_by_hand: {
    sentence: (names) => `${earned(names)}, set by an instructor (${names.at}): the tool’s own score does not apply.`,
    act: () => 'Nothing is missing. Lift these points in the gradebook if the tool’s score should apply again.',
    learner: {
      en: (names) => `Your result was set by your instructor: ${earned(names)}.`,
      de: (names) => `Ihr Ergebnis wurde von der Lehrperson festgelegt: ${verdient(names)}.`,
    },
  },
  left_course: {
    sentence: ({ learner }) => `${learner} is no active member of the course: scores are refused.`,
    act: ({ learner }) => `Take ${learner} back into the course if that is not meant, and have the score sent again.`,
    learner: {
      en: () => 'You are not on the course’s list at present, so scores for you are not taken. Please ask your instructor.',
      de: () => 'Sie stehen zurzeit nicht auf der Liste des Kurses, deshalb werden für Sie keine Punkte angenommen. Bitte fragen Sie die Lehrperson.',
    },
  },
  score_refused: {
    sentence: ({ tool, at, refusal }) => `${tool} sent a score on ${at}, and it was refused: ${refusal}`,
    act: (_, actor) =>
      actor === 'tool'
        ? TO_SUPPORT
        : actor === 'instructor'
          ? 'Take the learner back into the course if that is not meant, and have the score sent again.'
          : 'Put right what is named as the cause, and have the score sent again.',
    learner: {
      en: ({ tool, at }) => `${tool} sent a score for you on ${at}, but it could not be taken for a technical reason. We are looking into it; please do not do the work again before you hear from us.`,
      de: ({ tool, at }) => `${tool} hat am ${at} eine Punktzahl für Sie gesendet, die aus einem technischen Grund nicht angenommen werden konnte. Wir gehen dem nach; bitte machen Sie die Arbeit nicht noch einmal, bevor Sie von uns hören.`,
    },
  },
  stands: {
    sentence: (names) => `The score is here: ${earned(names)}, received ${names.at}.`,
    act: () => 'Nothing is missing. If another score was expected, compare with the tool’s own gradebook.',
    learner: {
      en: (names) => `Your score is here: ${earned(names)}, received ${names.at}. If you expected another one, please tell us which, and where you saw it.`,
      de: (names) => `Ihre Punktzahl ist da: ${verdient(names)}, angekommen am ${names.at}. Falls Sie eine andere erwartet haben, schreiben Sie uns bitte, welche, und wo Sie sie gesehen haben.`,
    },
  },
  waits_for_grading: {
    sentence: ({ tool, at }) => `${tool} says that the work is handed in and waits to be graded by a person (${at}).`,
    act: ({ tool }) => `Grade the work in ${tool}; the tool sends the score after that.`,
    learner: {
      en: () => 'Your work is handed in and waits to be graded by your instructor.',
      de: () => 'Ihre Arbeit ist abgegeben und wartet darauf, von der Lehrperson bewertet zu werden.',
    },
  },
  grading_failed: {
    sentence: ({ tool, at }) => `${tool} says that grading failed at its end (${at}).`,
    act: () => TO_SUPPORT,
    learner: {
      en: ({ tool }) => `${tool} has told us that your work could not be graded there. We are asking its support.`,
      de: ({ tool }) => `${tool} hat uns gemeldet, dass Ihre Arbeit dort nicht bewertet werden konnte. Wir fragen beim Support nach.`,
    },
  },
  cleared: {
    sentence: ({ tool, at }) => `${tool} took its score back (${at}).`,
    act: ({ tool }) => `See in ${tool} whether that was meant, and ask its support if not.`,
    learner: {
      en: ({ tool, at }) => `${tool} sent a score for you and took it back on ${at}. Please look there at what your last attempt says.`,
      de: ({ tool, at }) => `${tool} hat eine Punktzahl für Sie gesendet und am ${at} wieder zurückgenommen. Bitte sehen Sie dort nach, was Ihr letzter Versuch sagt.`,
    },
  },
  in_another_column: {
    sentence: ({ tool, learner, column }) => `${tool} sent a score for ${learner} to a column of its own, “${column}”.`,
    act: () => 'Merge that column into this assignment, in the gradebook.',
    learner: {
      en: () => 'A score for you has arrived in another column of the gradebook. Your instructor can bring the two together.',
      de: () => 'Eine Punktzahl für Sie ist in einer anderen Spalte der Notenübersicht angekommen. Die Lehrperson kann beide zusammenführen.',
    },
  },
  sends_no_scores: {
    sentence: ({ tool }) => `${tool} is registered without scores: none can come back, for anybody.`,
    act: ({ tool }) => `Nothing is missing. Give the registration of ${tool} scores if some are expected.`,
    learner: {
      en: ({ tool }) => `${tool} sends no scores for this assignment; your instructor enters the results.`,
      de: ({ tool }) => `${tool} sendet für diese Aufgabe keine Punktzahl; Ergebnisse trägt die Lehrperson ein.`,
    },
  },
  launch_failed: {
    sentence: ({ learner, at }) => `When ${learner} last opened it (${at}), that went wrong.`,
    act: ({ learner }) => `See what went wrong in the message below, and have ${learner} open it again when it works.`,
    learner: {
      en: ({ at }) => `When you opened this assignment on ${at}, something went wrong. We are looking into it and tell you when to try again.`,
      de: ({ at }) => `Als Sie diese Aufgabe am ${at} geöffnet haben, ging etwas schief. Wir gehen dem nach und melden uns, wenn Sie es noch einmal versuchen können.`,
    },
  },
  cannot_open: {
    sentence: ({ learner, obstacle }) => `${learner} has never opened it, and cannot open it now: ${obstacle}`,
    act: (_, actor) =>
      actor === 'instructor'
        ? 'Change dates or people of the assignment if that is not meant.'
        : 'Bring the tool into service, and tell the learner.',
    learner: {
      en: ({ obstacle }) => `You have not opened this assignment yet, and cannot at the moment: ${obstacle}`,
      de: () => 'Sie haben diese Aufgabe noch nicht geöffnet, und im Moment ist das auch nicht möglich. Wir melden uns, sobald es geht.',
    },
  },
  never_opened: {
    sentence: ({ learner, tool }) => `${learner} has never opened it here, so there is nothing that ${tool} could return a score for.`,
    act: ({ learner }) => `Ask ${learner} to open it from the course.`,
    learner: {
      en: ({ tool }) => `As far as we can see you have not opened this assignment from the course yet. What is done in ${tool} without coming from the course does not reach us: please open the assignment from the course.`,
      de: ({ tool }) => `Soweit wir sehen, haben Sie diese Aufgabe noch nicht aus dem Kurs heraus geöffnet. Was in ${tool} ohne den Weg über den Kurs gemacht wird, erreicht uns nicht: Bitte öffnen Sie die Aufgabe im Kurs.`,
    },
  },
  no_final_score: {
    sentence: ({ tool, at }) => `${tool} says that the work is handed in (${at}), but has sent no score for it.`,
    act: () => TO_SUPPORT,
    learner: {
      en: ({ tool }) => `${tool} has told us that your work is handed in, but has sent no score for it so far.`,
      de: ({ tool }) => `${tool} hat uns gemeldet, dass Ihre Arbeit abgegeben ist, aber bisher keine Punktzahl gesendet.`,
    },
  },
  work_goes_on: {
    sentence: ({ tool, at }) => `${tool} says that the work was begun, and not that it is handed in (${at}).`,
    act: ({ learner }) => `Ask ${learner} to finish the work and hand it in.`,
    learner: {
      en: ({ tool }) => `${tool} has told us that you began the work, but not that it is handed in. Please open it again and see whether something is left to do.`,
      de: ({ tool }) => `${tool} hat uns gemeldet, dass Sie die Arbeit begonnen haben, aber nicht, dass sie abgegeben ist. Bitte öffnen Sie sie noch einmal und sehen Sie nach, ob noch etwas zu tun ist.`,
    },
  },
  unclaimed: {
    sentence: ({ tool, at, unclaimed, learner }) => `Opened ${at}; since then ${many(unclaimed, 'message', 'messages')} of ${tool} ${unclaimed === 1 ? 'was' : 'were'} refused without saying whose ${unclaimed === 1 ? 'it is' : 'they are'}: the score of ${learner} may be among them.`,
    act: () => 'Look at the messages below that are marked as likely.',
    learner: {
      en: ({ at }) => `You opened this assignment on ${at}. No score for you has arrived since, and there is a technical problem that we are looking into. Please do not do the work again before you hear from us.`,
      de: ({ at }) => `Sie haben diese Aufgabe am ${at} geöffnet. Seitdem ist keine Punktzahl für Sie angekommen, und es gibt ein technisches Problem, dem wir nachgehen. Bitte machen Sie die Arbeit nicht noch einmal, bevor Sie von uns hören.`,
    },
  },
  not_handed_in: {
    sentence: ({ tool, at, learner, othersScored }) => `Opened ${at}; since then ${tool} has sent scores of ${many(othersScored, 'other person', 'others')}, and nothing of ${learner}. The work was probably not handed in.`,
    act: ({ learner, tool }) => `Ask ${learner} whether the work is handed in; if so, ask the support of ${tool} where its score is.`,
    learner: {
      en: ({ tool, at }) => `You opened this assignment on ${at}; ${tool} has sent no score for you since. Please open it again and see whether your work is handed in. If it is, tell us when you did it.`,
      de: ({ tool, at }) => `Sie haben diese Aufgabe am ${at} geöffnet; seitdem hat ${tool} keine Punktzahl für Sie gesendet. Bitte öffnen Sie sie noch einmal und sehen Sie nach, ob Ihre Arbeit abgegeben ist. Falls ja, schreiben Sie uns bitte, wann das war.`,
    },
  },
  nothing_came: {
    sentence: ({ tool, at }) => `Opened ${at}; nothing has come from ${tool} since, for anybody. Why is not known.`,
    act: () => 'Run a sounding of the assignment: it shows whether scores come back at all.',
    learner: {
      en: ({ tool, at }) => `You opened this assignment on ${at}; ${tool} has sent no score for you since. We do not know yet why. If you handed your work in, please tell us when.`,
      de: ({ tool, at }) => `Sie haben diese Aufgabe am ${at} geöffnet; seitdem hat ${tool} keine Punktzahl für Sie gesendet. Warum, wissen wir noch nicht. Falls Sie Ihre Arbeit abgegeben haben, schreiben Sie uns bitte, wann das war.`,
    },
  },
} // oxfmt-ignore

/** What a case is in a sentence, and what is to be done about it. */
export function caseInWords({ code, actor }: CaseJudgement, names: CaseNames): { sentence: string; act: string } {
  const { sentence, act } = WORDS[code]
  return { sentence: capital(sentence(names)), act: act(names, actor) }
}

/** What is so, in words for the learner. */
export function toldToLearner({ code }: CaseJudgement, names: CaseNames, language: LetterLanguage): string {
  return WORDS[code].learner[language](names)
}

/** A text to the learner, to be looked over before it goes. @param from who writes */
export function learnerLetter(
  judgement: CaseJudgement,
  names: CaseNames & { from: string },
  language: LetterLanguage,
): string {
  const { learner, assignment, course, from } = names
  const about =
    language === 'de'
      ? `Guten Tag ${learner},\n\nes geht um „${assignment}“ (${course}).`
      : `Hello ${learner},\n\nthis is about “${assignment}” (${course}).`
  return `${about} ${toldToLearner(judgement, names, language)}\n\n${from}\n`
}

/** A reminder for somebody who never opened an assignment, to be looked over before it goes. @param dueAt empty without one */
export function reminder(
  names: Pick<CaseNames, 'assignment' | 'course'> & { dueAt: string; isPastDue: boolean; address: string },
  language: LetterLanguage,
): string {
  const { assignment, course, dueAt, isPastDue, address } = names
  return language === 'de'
    ? `„${assignment}“ (${course}) ist noch nicht geöffnet${dueAt && `; abzugeben ${isPastDue ? 'war es' : 'ist es'} bis ${dueAt}`}. Hier geht es hin: ${address}`
    : `“${assignment}” (${course}) has not been opened yet${dueAt && `; it ${isPastDue ? 'was' : 'is'} due ${dueAt}`}. Here it is: ${address}`
}

/** By what the tool knows the launch, and us. */
export interface SupportFacts {
  tool: string
  /** As they were sent: `user_id` or `sub`, `resource_link_id`, `context_id`. */
  user: string
  link: string
  context: string
  openedAt: string
  /** What the tool said last of the work, in its own words; empty for nothing. */
  heard: string
  platform: string
  from: string
}

/** A question to the tool’s support where no message was refused: by identifiers alone, without a name. */
export function supportQuestion(facts: SupportFacts, language: LetterLanguage): string {
  const { tool, user, link, context, openedAt, heard, platform, from } = facts
  return language === 'de'
    ? [
        `Betrifft ${tool}: Eine Punktzahl fehlt uns.`,
        `Geöffnet wurde zuletzt ${openedAt || 'zu einer Zeit, die uns nicht vorliegt'}, mit user_id oder sub ${user}, resource_link_id ${link}, context_id ${context}. ${heard ? `Das Letzte, was uns dazu gesendet wurde: ${heard}.` : 'Seitdem wurde uns dazu nichts gesendet.'}`,
        'Bitte sagen Sie uns, ob die Arbeit bei Ihnen abgegeben ist, und ob Sie uns eine Punktzahl gesendet haben: wann, an welche Adresse, und was unser Dienst geantwortet hat.',
        `Unsere öffentliche Adresse: ${platform}`,
        `${from}\n`,
      ].join('\n\n')
    : [
        `About ${tool}: a score has not reached us.`,
        `It was last opened ${openedAt || 'at a time that we no longer have'}, with user_id or sub ${user}, resource_link_id ${link}, context_id ${context}. ${heard ? `The last that was sent to us about it: ${heard}.` : 'Nothing has been sent to us about it since.'}`,
        'Please tell us whether the work is handed in at your end, and whether you sent us a score: when, to which address, and what our service answered.',
        `Our public address: ${platform}`,
        `${from}\n`,
      ].join('\n\n')
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)
