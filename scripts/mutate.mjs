// npm run mutate: breaks one check at a time and runs the tests of its area; a break that no test notices is named.
//   npm run mutate                     all that are listed
//   npm run mutate -- --listed tokens  those whose name or file holds one of the words
//   npm run mutate -- --whole oauth1   every line of a folder, in every way: oauth1, lti13, scores, reconciliation, inbound
import { run } from './lib/prepare.mjs'

await run('mutate')
