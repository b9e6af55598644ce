export { Problem } from './problem.js'
