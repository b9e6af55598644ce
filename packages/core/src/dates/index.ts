export { isTimeZone, readMomentCell, toDate, wallTime, type CellRead } from './moments.js'
export { nextOccurrence } from './recurrence.js'
