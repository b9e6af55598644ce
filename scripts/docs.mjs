// node scripts/docs.mjs: writes the pages of docs that are made from the code, so that the two cannot differ; tests compare them.
import { run } from './lib/prepare.mjs'

await run('docs')
