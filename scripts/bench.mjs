// npm run bench [-- NAME…] [--json] [--seconds 5] [--rounds 3] [--messages 1000]: what a request costs against the least that it must.
import { run } from './lib/prepare.mjs'

await run('bench', { browser: true, quiet: true })
