export { factsIn, found, saidOf, type CheckName, type Found } from './catalogue.js'
export type { Explain, Facts, NoFacts, RefusalFacts, Said, Words } from './definition.js'
export { shortList } from './page.js'
export { evidenceWords, headlineOf, headlineWords, REMARK, wordsOf } from './words.js'
