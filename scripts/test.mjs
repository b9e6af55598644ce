// npm test: lint, format, types, borders and all tests, on a fresh machine too.
import { spawn } from 'node:child_process'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import { prepare, ROOT, Stop } from './lib/prepare.mjs'

/** What needs nothing but the files: side by side, the longest first, each telling what it has to say when it is done. */
const CHECKS = [
  ['lint', 'eslint', ['.', '--max-warnings', '0']],
  ['types of the console', 'vue-tsc', ['--noEmit', '-p', 'packages/console']],
  ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
  ['types of the tests', 'tsc', ['-p', 'tsconfig.test.json']],
  ['borders', 'depcruise', ['--config', 'dependency-cruiser.config.mjs', '--output-type', 'err', 'packages']],
]
const TESTS = ['tests', 'vitest', ['run', '--reporter', 'dot', ...process.argv.slice(2)]]

/** @param stdio `inherit`, or `pipe` for what is told at the end */
async function step([name, program, args], stdio) {
  const started = Date.now()
  const child = spawn(join(ROOT, 'node_modules/.bin', program), args, { cwd: ROOT, stdio: ['ignore', stdio, stdio] })
  const told = []
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (chunk) => told.push(chunk))
  const status = await new Promise((resolve, reject) => child.on('error', reject).on('close', resolve))
  process.stdout.write(Buffer.concat(told))
  console.log(`${status === 0 ? '●' : '✕'} ${name} (${((Date.now() - started) / 1000).toFixed(1)} s)`)
  return status === 0
}

async function checks() {
  const waiting = [...CHECKS]
  let good = true
  const work = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) good = (await step(next, 'pipe')) && good
  }
  await Promise.all(Array.from({ length: Math.min(2, availableParallelism()) }, work))
  return good
}

try {
  prepare({ browser: true })
  if (!(await checks()) || !(await step(TESTS, 'inherit'))) process.exitCode = 1
} catch (error) {
  if (!(error instanceof Stop)) throw error
  console.error(error.message)
  process.exitCode = 1
}
