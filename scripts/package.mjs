// npm run package [-- --out FOLDER]: one archive with all that a server needs beside Node.js and PostgreSQL, for this kind of machine.
import { run } from './lib/prepare.mjs'

await run('package')
