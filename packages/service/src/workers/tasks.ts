/** What the threads of the pool can be asked, by name. */
export { diagnoseBaseString, diagnoseSignature } from '@bathyscribe/core/diagnosis'
export { readRoster } from './read-roster.js'
