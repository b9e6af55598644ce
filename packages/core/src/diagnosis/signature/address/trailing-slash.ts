import type { Mistake } from '../mistake.js'
import { addressed } from './ways.js'

export const trailingSlash: Mistake = {
  code: 'trailing_slash',
  name: 'a slash at the end',
  family: 'path',
  sentence: 'The signature was made for the same address with, or without, a slash at the end of its path.',
  ours: null,
  theirs: 'Sign the address exactly as it is called.',
  ways: (_, right) => addressed(right, 'path', [(path) => (path.endsWith('/') ? path.slice(0, -1) : `${path}/`)]),
}
