export { differences, SAID_FIELDS, saidBy, type Difference, type Said, type SaidField } from './compare.js'
export {
  ITEM_KINDS,
  MOST_ITEMS,
  plainLine,
  readMoment,
  type AskedOfPicker,
  type ContentItem,
  type ItemKind,
  type ItemProblem,
  type ItemsProblem,
  type ItemsRead,
  type SubmissionReview,
  type WantedColumn,
} from './item.js'
