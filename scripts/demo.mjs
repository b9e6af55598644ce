// npm run demo: from a fresh machine to a running product with the demo scenario. See --help.
import { run } from './lib/prepare.mjs'

const HELP = `npm run demo [-- OPTIONS]

  (none)       starts everything, loads the demo data once, runs until Ctrl-C
  --detach     returns when all answers; goes on in the background
  --stop       ends what --detach started
  --fresh      starts with new data
  --empty      an empty service instead, with data of its own: for docs/first-hour.md
  --port N     the service's port (8080); 0 takes free ones for service and tools
  --json       prints addresses and an API token for programs
  --check      runs the example story on throw-away data and free ports, and checks its end
  --help       this text
`
if (process.argv.includes('--help')) process.stdout.write(HELP)
else await run('demo', { quiet: process.argv.includes('--json') })
