export { cleanRichText, plainOf, toRichText } from './clean.js'
