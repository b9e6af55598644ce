import { diagnoseToken as diagnose, type Diagnosis, type TokenFacts } from '@bathyscribe/core/diagnosis'
import { verifyRsa } from '../keys/verify-rsa.js'

/** What the threads of the pool can be asked, by name. */
export { diagnoseBaseString, diagnoseSignature } from '@bathyscribe/core/diagnosis'
export { readRoster } from './read-roster.js'

export function diagnoseToken(facts: TokenFacts): Diagnosis {
  return diagnose(facts, verifyRsa)
}
