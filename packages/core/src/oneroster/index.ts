export {
  categoryJson,
  lineItemJson,
  resultFiles,
  resultJson,
  scoreScaleJson,
  type LineItemFacts,
  type ResultFacts,
} from './results.js'
export {
  readOneRoster,
  readRosterTable,
  ROSTER_LIMITS,
  type Roster,
  type RosterClass,
  type RosterEnrolment,
  type RosterPerson,
  type RosterProblem,
  type RosterRefusal,
  type RosterTerm,
} from './roster.js'
