export {
  CASE_ACTORS,
  CASE_CERTAINTIES,
  CASE_CODES,
  judgeCase,
  type CaseActor,
  type CaseCertainty,
  type CaseCode,
  type CaseFacts,
  type CaseJudgement,
} from './judge.js'
export {
  caseInWords,
  learnerLetter,
  reminder,
  supportQuestion,
  toldToLearner,
  type CaseNames,
  type SupportFacts,
} from './words.js'
