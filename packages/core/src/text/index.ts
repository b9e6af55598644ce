export { entryOf } from './entry.js'
export {
  cutEnd,
  cutEnds,
  cutStart,
  plainAscii,
  plainDecimal,
  shortened,
  stripHidden,
  upTo,
  withoutBracketed,
} from './ends.js'
export { elementTexts, firstForm, MOST_OF_A_PAGE, readHtml, textOf, visibleText, type HtmlToken } from './html.js'
export { percentDecoded } from './escapes.js'
export { freeSlug, slugOf } from './slug.js'
