import { spawn } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join, relative } from 'node:path'
import { REPORT, ROOT, RUN, say } from '../machine/place.js'

const cache = (name: string) => join(RUN, 'cache', name)
/** The compiler as a program of its own; what works on TypeScript from the inside (lint of components, the console's types) still needs the one written in JavaScript. */
const TSC = join(ROOT, 'node_modules/typescript-7/bin/tsc')

/** The types of the whole house are read once and then thrown away: what is collected meanwhile is time lost. */
const ENVIRONMENT = { GOGC: '400' }
const CHECKS_ENVIRONMENT = { ...ENVIRONMENT, NODE_OPTIONS: '--max-semi-space-size=128' }

/** What needs nothing but the files, the longest first. Each keeps between runs what it has seen to be good. */
type Step = readonly [name: string, program: string, args: readonly string[]]
const CHECKS: readonly Step[] = [
  ['lint', 'oxlint', ['--type-aware', '--deny-warnings', '.']],
  ['types of the console', 'vue-tsc', ['--noEmit', '-p', 'packages/console', '--incremental', '--tsBuildInfoFile', cache('console.tsbuildinfo')]],
  ['format', 'oxfmt', ['--check', '.']],
  ['lint of components', 'eslint', ['packages/console/src', '--max-warnings', '0', '--cache', '--cache-strategy', 'content', '--cache-location', cache('eslint/')]],
  ['lint of their scripts', process.execPath, [join(ROOT, 'scripts/lint-components.mjs')]],
  ['types of the scripts', TSC, ['-p', 'scripts']],
  ['types of the tests', TSC, ['-p', 'tsconfig.test.json', '--singleThreaded', '--incremental', '--tsBuildInfoFile', cache('tests.tsbuildinfo')]],
  ['borders', 'depcruise', ['--config', 'dependency-cruiser.config.mjs', '--output-type', 'err', 'packages']],
] // oxfmt-ignore
const RESULTS = join(REPORT, 'tests.json')
const TESTS: Step = ['tests', 'vitest', ['run', '--reporter', 'dot', '--reporter', 'junit', '--outputFile.junit', join(REPORT, 'junit.xml'), '--reporter', 'json', '--outputFile.json', RESULTS]] // oxfmt-ignore
const SLOWEST_TOLD = 12

/** @param how `live` lets it speak at once; otherwise what it said is told at the end, so that two do not speak across each other */
async function step([name, program, args]: Step, how: { live?: boolean; nice?: boolean } = {}): Promise<boolean> {
  const started = Date.now()
  const stdio = how.live ? 'inherit' : 'pipe'
  const [command, all]: [string, readonly string[]] = how.nice
    ? ['nice', ['-n', '10', program, ...args]]
    : [program, args]
  const path = `${join(ROOT, 'node_modules/.bin')}:${process.env['PATH'] ?? ''}`
  const child = spawn(command, [...all], {
    cwd: ROOT,
    stdio: ['ignore', stdio, stdio],
    env: { ...(how.nice ? CHECKS_ENVIRONMENT : ENVIRONMENT), ...process.env, PATH: path },
  })
  const told: Buffer[] = []
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (chunk: Buffer) => told.push(chunk))
  const status = await new Promise<number | null>((resolve, reject) => child.on('error', reject).on('close', resolve))
  process.stdout.write(Buffer.concat(told))
  say(`${status === 0 ? '●' : '✕'} ${name} (${((Date.now() - started) / 1000).toFixed(1)} s)`)
  return status === 0
}

/** One after the other, and behind the tests where both want the processor: those mostly wait for something. */
async function checks(): Promise<string[]> {
  const failed: string[] = []
  for (const one of CHECKS) if (!(await step(one, { nice: true }))) failed.push(one[0])
  return failed
}

interface Results {
  numPassedTests: number
  numFailedTests: number
  testResults: {
    name: string
    startTime: number
    endTime: number
    status: string
    message?: string
    assertionResults: { status: string; fullName: string }[]
  }[]
}

/** @returns the failed tests by file and name; says how many there were and which files took longest. */
function readResults(): string[] {
  let results: Results
  try {
    results = JSON.parse(readFileSync(RESULTS, 'utf8')) as Results
  } catch {
    return ['the test runner did not come to its end']
  }
  const files = results.testResults.map((file) => ({
    name: relative(ROOT, file.name),
    seconds: (file.endTime - file.startTime) / 1000,
    failed: file.assertionResults.filter((one) => one.status === 'failed').map((one) => one.fullName),
    broken: file.status === 'failed' ? (file.message ?? '').split('\n')[0]! : '',
  }))
  say(`\nLongest files:`)
  for (const one of files.sort((a, b) => b.seconds - a.seconds).slice(0, SLOWEST_TOLD))
    say(`  ${one.seconds.toFixed(1).padStart(6)} s  ${one.name}`)
  say(`${results.numPassedTests} passed, ${results.numFailedTests} failed`)
  return files.flatMap((one) =>
    one.failed.length > 0
      ? one.failed.map((name) => `${one.name}: ${name}`)
      : one.broken === ''
        ? []
        : [`${one.name}: ${one.broken}`],
  )
}

/** Lint, format, types, borders and all tests. With `--changed`, only tests of what is not committed. What follows otherwise goes to the test runner. */
export async function main(args: string[]): Promise<number> {
  const started = Date.now()
  rmSync(REPORT, { recursive: true, force: true })
  mkdirSync(join(RUN, 'cache'), { recursive: true })
  const beside = checks()
  // Nothing that is tested may have changed.
  const given = args.includes('--changed') ? [...args, '--passWithNoTests'] : args
  const passed = await step([TESTS[0], TESTS[1], [...TESTS[2], ...given]], { live: true })
  const failed = [...(await beside), ...readResults()]
  if (!passed && failed.length === 0) failed.push('tests')
  say(`Took ${((Date.now() - started) / 1000).toFixed(0)} s in all.`)
  if (failed.length === 0) return 0
  say(`What a failed end-to-end test showed and logged is below ${relative(process.cwd(), REPORT)}.`)
  for (const name of failed) say(`✕ ${name}`)
  return 1
}
