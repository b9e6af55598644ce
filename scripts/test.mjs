// npm test: lint, format, types, borders and all tests, on a fresh machine too. What follows `npm test --` goes to the test runner; with `--changed` it runs what your changes touch.
import { run } from './lib/prepare.mjs'

await run('test', { browser: true })
