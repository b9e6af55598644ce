/** What the threads of the pool can be asked, by name. */
export { diagnoseSignature } from '@bathyscribe/core/diagnosis'
export { readRosterApart } from './read-roster.js'
