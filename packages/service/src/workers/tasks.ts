import { diagnoseBaseString as ofBaseString, type SignatureFacts } from '@bathyscribe/core/diagnosis'

/** What the threads of the pool can be asked, by name. */
export { diagnoseSignature } from '@bathyscribe/core/diagnosis'
export { readRoster } from './read-roster.js'

export const diagnoseBaseString = ({ facts, theirs }: { facts: SignatureFacts; theirs: string }) =>
  ofBaseString(facts, theirs)
