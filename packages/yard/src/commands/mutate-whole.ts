import { spawnSync } from 'node:child_process'
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROOT, RUN, say, Stop } from '../machine/place.js'

/** Folders whose every line is broken in every way, by what their tests are found by. */
const AREAS: Readonly<Record<string, { mutate: string; tests: string; importing: RegExp; project: string }>> = {
  oauth1: area('oauth1'),
  lti13: area('lti13'),
  scores: area('scores'),
  reconciliation: area('reconciliation'),
  inbound: {
    mutate: 'packages/service/src/inbound/**/*.ts',
    tests: 'packages/service/test',
    importing:
      /inbound|scores-between|scores-13|service-tokens|other-tools|pickers|outcomes|connections|self-registration/,
    project: 'service',
  },
}
/** So many of a hundred have to be noticed. */
const FLOOR = 85
const HANGS_MS = 30_000

function area(name: string) {
  return {
    mutate: `packages/core/src/${name}/*.ts`,
    tests: 'packages/core/test',
    importing: new RegExp(`@bathyscribe/core/${name}'`),
    project: 'core',
  }
}

interface Report {
  files: Record<string, { source: string; mutants: Mutated[] }>
}
interface Mutated {
  mutatorName: string
  replacement?: string
  status: string
  location: { start: { line: number; column: number }; end: { line: number; column: number } }
}

/** Breaks whole folders by rule, line by line, and says how much of it the tests notice; what they do not is listed. @param names of areas; all unless given */
export function mutateWhole(names: readonly string[]): number {
  const unknown = names.filter((name) => !Object.hasOwn(AREAS, name))
  if (unknown.length > 0)
    throw new Stop(`There is no area “${unknown.join('”, “')}”. There are: ${Object.keys(AREAS).join(', ')}.`)
  const bad = (names.length > 0 ? names : Object.keys(AREAS)).filter((name) => !mutateArea(name))
  return bad.length === 0 ? 0 : 1
}

/** @returns whether enough is noticed */
function mutateArea(name: string): boolean {
  const { mutate, tests, importing, project } = AREAS[name]!
  const folder = join(RUN, 'mutation', name)
  mkdirSync(folder, { recursive: true })
  const report = join(folder, 'report.json')
  const include = readdirSync(join(ROOT, tests))
    .filter((file) => file.endsWith('.test.ts'))
    .filter((file) => importing.test(project === 'core' ? readFileSync(join(ROOT, tests, file), 'utf8') : file))
    .map((file) => `${tests}/${file}`)
  const config = join(folder, 'stryker.config.json')
  writeFileSync(
    config,
    JSON.stringify({
      testRunner: 'vitest',
      plugins: ['@stryker-mutator/vitest-runner'],
      vitest: { configFile: 'test/mutation.ts', related: false },
      mutate: [mutate],
      coverageAnalysis: 'perTest',
      timeoutMS: HANGS_MS,
      // What is there for its type only, or for people to read, has no test of its own.
      mutator: { excludedMutations: ['StringLiteral'] },
      ignorePatterns: ['**/dist', '.run', '.git'],
      tempDirName: join(folder, 'sandbox'),
      reporters: ['json', 'dots'],
      jsonReporter: { fileName: report },
    }),
  )
  const env = { ...process.env, MUTATION_PROJECT: project, MUTATION_TESTS: include.join(' ') }
  const program = join(ROOT, 'node_modules/.bin/stryker')
  const { status } = spawnSync(program, ['run', config], { cwd: ROOT, env, stdio: ['ignore', 'inherit', 'inherit'] })
  if (status !== 0) throw new Stop(`The mutation of ${name} did not come to its end.`)
  return tellOf(name, JSON.parse(readFileSync(report, 'utf8')) as Report)
}

function tellOf(name: string, { files }: Report): boolean {
  const all = Object.entries(files).flatMap(([file, { source, mutants }]) =>
    mutants.map((one) => ({ ...one, file, line: source.split('\n')[one.location.start.line - 1] ?? '' })),
  )
  const judged = all.filter((one) => !['Ignored', 'CompileError'].includes(one.status))
  const left = judged.filter((one) => !['Killed', 'Timeout', 'RuntimeError'].includes(one.status))
  const share = (100 * (judged.length - left.length)) / judged.length
  for (const { file, location, line, replacement, status } of left)
    say(
      `  ${status.toLowerCase()}  ${file}:${location.start.line}  ${line.trim().slice(0, 90)}  →  ${(replacement ?? '').replace(/\s+/g, ' ').slice(0, 60)}`,
    )
  const good = share >= FLOOR
  say(
    `${good ? '●' : '✕'} ${name}: ${share.toFixed(1)} % of ${judged.length} noticed, ${left.length} not (at least ${FLOOR} %)`,
  )
  return good
}
