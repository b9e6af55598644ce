export { checkSentClaims } from './claims.js'
export { checkSentParameters } from './parameters.js'
export type { SentFacts, SentProblem } from './problem.js'
