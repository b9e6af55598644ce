export { divideAtRandom } from './divide.js'
