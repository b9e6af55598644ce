// npm test: lint, format, types, borders and all tests, on a fresh machine too.
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { prepare, ROOT, Stop } from './lib/prepare.mjs'

const BIN = join(ROOT, 'node_modules/.bin')
const STEPS = [
  ['lint', 'eslint', ['.', '--max-warnings', '0']],
  ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
  ['types of the tests', 'tsc', ['-p', 'tsconfig.test.json']],
  ['types of the console', 'vue-tsc', ['--noEmit', '-p', 'packages/console']],
  ['borders', 'depcruise', ['--config', 'dependency-cruiser.config.mjs', '--output-type', 'err', 'packages']],
  ['tests', 'vitest', ['run', '--reporter', 'dot', ...process.argv.slice(2)]],
]

try {
  prepare({ browser: true })
  for (const [name, program, args] of STEPS) {
    const started = Date.now()
    const { status } = spawnSync(join(BIN, program), args, { cwd: ROOT, stdio: 'inherit' })
    if (status !== 0) throw new Stop(`✕ ${name}`)
    console.log(`● ${name} (${((Date.now() - started) / 1000).toFixed(1)} s)`)
  }
} catch (error) {
  if (!(error instanceof Stop)) throw error
  console.error(error.message)
  process.exitCode = 1
}
