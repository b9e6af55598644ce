import { percentDecoded } from '../../../text/index.js'
import type { Mistake } from '../mistake.js'
import { addressed } from './ways.js'

export const pathDecoded: Mistake = {
  code: 'path_decoded',
  name: 'path decoded or in other letters',
  family: 'path',
  sentence: 'The path was decoded, encoded or put into small letters before it was signed.',
  ours: null,
  theirs: 'Sign the path exactly as it is called, escapes included.',
  ways: (_, right) =>
    addressed(right, 'path', [
      percentDecoded,
      (path) => encodeURI(path.toWellFormed()),
      (path) => path.toLowerCase(),
      (path) => path.replace(/%[0-9a-f]{2}|[A-Z]+/gi, (one) => (one.startsWith('%') ? one : one.toLowerCase())),
      (path) => path.replace(/%[0-9a-f]{2}/gi, (one) => one.toUpperCase()),
      (path) => path.replace(/%[0-9a-f]{2}/gi, (one) => one.toLowerCase()),
      (path) => path.replaceAll('%20', '+'),
      (path) => path.replaceAll('+', '%20'),
      (path) => path.replaceAll('%7E', '~').replaceAll('%7e', '~'),
      (path) => path.replaceAll('~', '%7E'),
    ]),
}
