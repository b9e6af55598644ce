export { factsIn, found, saidOf, type CheckName, type Found } from './catalogue.js'
export type { Explain, Facts, RefusalFacts, Said, Words } from './definition.js'
export { evidenceWords, headlineOf, headlineWords, REMARK, wordsOf } from './words.js'
