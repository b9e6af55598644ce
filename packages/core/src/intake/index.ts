export { FIELD_WORDS, FIELDS, type Field } from './fields.js'
export { type Handover, type IntakeRemark, type KeyPair, type Recognised } from './handover.js'
export { readJson, type JsonProblem } from './json.js'
export { HANDOVER_MAX_CHARACTERS, readFetched, readHandover } from './read.js'
