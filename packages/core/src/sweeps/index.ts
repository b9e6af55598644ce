export { compareLink, LINK_CHANGES, needsSomebody, type LinkChange, type LinkOutcome } from './compare.js'
export { sweepCsv, sweepJunit, type ReportLine } from './report.js'
