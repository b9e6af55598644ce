export { escapeXml, onlyChild, readXml, type XmlElement, type XmlProblem } from './read.js'
