// npm test: lint, format, types, borders and all tests, on a fresh machine too. What follows `npm test --` goes to the test runner.
import { spawn } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join, relative } from 'node:path'
import { prepare, REPORT, ROOT, RUN, Stop } from './lib/prepare.mjs'

const cache = (name) => join(RUN, 'cache', name)
/** The compiler as a program of its own; what works on TypeScript from the inside (lint of components, the console's types) still needs the one written in JavaScript. */
const TSC = join(ROOT, 'node_modules/typescript-7/bin/tsc')

/** The types of the whole house are read once and then thrown away: what is collected meanwhile is time lost. */
const ENVIRONMENT = { GOGC: '400' }
const CHECKS_ENVIRONMENT = { ...ENVIRONMENT, NODE_OPTIONS: '--max-semi-space-size=128' }

/** What needs nothing but the files, the longest first. Each keeps between runs what it has seen to be good. */
const CHECKS = [
  ['lint', 'oxlint', ['--type-aware', '--deny-warnings', '.']],
  ['types of the console', 'vue-tsc', ['--noEmit', '-p', 'packages/console', '--incremental', '--tsBuildInfoFile', cache('console.tsbuildinfo')]],
  ['format', 'oxfmt', ['--check', '.']],
  ['lint of components', 'eslint', ['packages/console/src', '--max-warnings', '0', '--cache', '--cache-strategy', 'content', '--cache-location', cache('eslint/')]],
  ['types of the tests', TSC, ['-p', 'tsconfig.test.json', '--singleThreaded', '--incremental', '--tsBuildInfoFile', cache('tests.tsbuildinfo')]],
  ['borders', 'depcruise', ['--config', 'dependency-cruiser.config.mjs', '--output-type', 'err', 'packages']],
] // oxfmt-ignore
const RESULTS = join(REPORT, 'tests.json')
const TESTS = ['tests', 'vitest', ['run', '--reporter', 'dot', '--reporter', 'junit', '--outputFile.junit', join(REPORT, 'junit.xml'), '--reporter', 'json', '--outputFile.json', RESULTS]] // oxfmt-ignore
const SLOWEST_TOLD = 12

/** @param how `live` lets it speak at once; otherwise what it said is told at the end, so that two do not speak across each other */
async function step([name, program, args], how = {}) {
  const started = Date.now()
  const stdio = how.live ? 'inherit' : 'pipe'
  const [command, all] = how.nice ? ['nice', ['-n', '10', program, ...args]] : [program, args]
  const path = `${join(ROOT, 'node_modules/.bin')}:${process.env.PATH}`
  const child = spawn(command, all, {
    cwd: ROOT,
    stdio: ['ignore', stdio, stdio],
    env: { ...(how.nice ? CHECKS_ENVIRONMENT : ENVIRONMENT), ...process.env, PATH: path },
  })
  const told = []
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (chunk) => told.push(chunk))
  const status = await new Promise((resolve, reject) => child.on('error', reject).on('close', resolve))
  process.stdout.write(Buffer.concat(told))
  console.log(`${status === 0 ? '●' : '✕'} ${name} (${((Date.now() - started) / 1000).toFixed(1)} s)`)
  return status === 0
}

/** One after the other, and behind the tests where both want the processor: those mostly wait for something. */
async function checks() {
  const failed = []
  for (const one of CHECKS) if (!(await step(one, { nice: true }))) failed.push(one[0])
  return failed
}

/** @returns the failed tests by file and name; says how many there were and which files took longest. */
function readResults() {
  let results
  try {
    results = JSON.parse(readFileSync(RESULTS, 'utf8'))
  } catch {
    return ['the test runner did not come to its end']
  }
  const files = results.testResults.map((file) => ({
    name: relative(ROOT, file.name),
    seconds: (file.endTime - file.startTime) / 1000,
    failed: file.assertionResults.filter((one) => one.status === 'failed').map((one) => one.fullName),
    broken: file.status === 'failed' ? (file.message ?? '').split('\n')[0] : '',
  }))
  console.log(`\nLongest files:`)
  for (const one of files.sort((a, b) => b.seconds - a.seconds).slice(0, SLOWEST_TOLD))
    console.log(`  ${one.seconds.toFixed(1).padStart(6)} s  ${one.name}`)
  console.log(`${results.numPassedTests} passed, ${results.numFailedTests} failed`)
  return files.flatMap((one) =>
    one.failed.length > 0
      ? one.failed.map((name) => `${one.name}: ${name}`)
      : one.broken === ''
        ? []
        : [`${one.name}: ${one.broken}`],
  )
}

try {
  const started = Date.now()
  prepare({ browser: true })
  rmSync(REPORT, { recursive: true, force: true })
  mkdirSync(join(RUN, 'cache'), { recursive: true })
  const only = process.argv.slice(2)
  const beside = checks()
  const passed = await step([TESTS[0], TESTS[1], [...TESTS[2], ...only]], { live: true })
  const failed = [...(await beside), ...readResults()]
  if (!passed && failed.length === 0) failed.push('tests')
  console.log(`Took ${((Date.now() - started) / 1000).toFixed(0)} s in all.`)
  if (failed.length > 0) {
    console.log(`What a failed end-to-end test showed and logged is below ${relative(process.cwd(), REPORT)}.`)
    for (const name of failed) console.log(`✕ ${name}`)
    process.exitCode = 1
  }
} catch (error) {
  if (!(error instanceof Stop)) throw error
  console.error(error.message)
  process.exitCode = 1
}
