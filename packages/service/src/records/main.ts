// What the benchmarks measure from outside of the service.
export { createDatabase } from './database.js'
export { Records } from './index.js'
