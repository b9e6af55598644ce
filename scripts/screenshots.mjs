// npm run screenshots: makes the pictures of docs/screenshots anew from the demo data.
import { run } from './lib/prepare.mjs'

await run('screenshots', { browser: true })
