// node scripts/kill.mjs [--times 10] [--scores 5000] [--json]: the service is killed in the middle of a burst, again and again.
import { run } from './lib/prepare.mjs'

await run('kill', { quiet: true })
