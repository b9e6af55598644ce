export { EXPORT_FIELDS, guessColumns, type ExportField, type ExportReading } from './columns.js'
export {
  RECONCILED_CLASSES,
  reconcile,
  type CompareOptions,
  type ExportLine,
  type Known,
  type Reconciled,
  type ReconciledClass,
} from './compare.js'
export {
  LIKELY_REASONS,
  RECONCILED_REASONS,
  reasonFor,
  type Explained,
  type ReconciledReason,
  type TrailFacts,
} from './reason.js'
