// node scripts/stress.mjs [--times 5] [--cpu 4] [-- what follows goes to the test runner]: the tests, several times, beside a busy processor.
import { run } from './lib/prepare.mjs'

await run('stress', { browser: true })
