export { FIELD_WORDS, FIELDS, type Field } from './fields.js'
export { type IntakeRemark } from './judge.js'
export { readJson, type JsonProblem } from './json.js'
export {
  HANDOVER_MAX_CHARACTERS,
  readFetched,
  readHandover,
  type Handover,
  type KeyPair,
  type Recognised,
} from './read.js'
