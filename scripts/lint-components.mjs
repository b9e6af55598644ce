// node scripts/lint-components.mjs: lints the scripts of the console's components with their types.
import { run } from './lib/prepare.mjs'

await run('lint-components')
