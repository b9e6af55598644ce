import { spawnSync } from 'node:child_process'
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROOT, RUN, say, Stop } from '../machine/place.js'
import { EQUIVALENT } from './equivalent-mutants.js'

/** Folders whose every line is broken in every way, and the tests that are theirs. Others may notice more, but take minutes where these take seconds. */
const AREAS: Readonly<Record<string, { mutate: string; project: 'core' | 'service'; tests: RegExp }>> = {
  oauth1: { mutate: 'packages/core/src/oauth1/*.ts', project: 'core', tests: /^oauth1/ },
  lti13: { mutate: 'packages/core/src/lti13/*.ts', project: 'core', tests: /^(lti13|tool-metadata|pkce|content)/ },
  scores: { mutate: 'packages/core/src/scores/*.ts', project: 'core', tests: /^(scores|counting)/ },
  reconciliation: { mutate: 'packages/core/src/reconciliation/*.ts', project: 'core', tests: /^reconciliation/ },
  inbound: { mutate: 'packages/service/src/inbound/**/*.ts', project: 'service', tests: /^inbound/ },
}
/** So many of a hundred have to be noticed. */
const FLOOR = 85
const HANGS_MS = 30_000

interface Report {
  files: Record<string, { source: string; mutants: Mutated[] }>
}
interface Mutated {
  mutatorName: string
  replacement?: string
  status: string
  /** Whether it is in what runs while the tests are being read. */
  static?: boolean
  testsCompleted?: number
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
  const { mutate, project, tests } = AREAS[name]!
  const folder = join(RUN, 'mutation', name)
  mkdirSync(folder, { recursive: true })
  const report = join(folder, 'report.json')
  const place = `packages/${project}/test`
  const include = readdirSync(join(ROOT, place))
    .filter((file) => file.endsWith('.test.ts') && tests.test(file))
    .map((file) => `${place}/${file}`)
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

/** Broken so that the tests could not even be read: nobody could overlook it, though no single test failed. */
const cannotBegin = ({ status, static: isStatic, testsCompleted }: Mutated) =>
  status === 'Survived' && isStatic === true && testsCompleted === 0

/** What was broken, as it stands in the file. */
function textAt(source: string, { start, end }: Mutated['location']): string {
  const lines = source.split('\n').slice(start.line - 1, end.line)
  lines[lines.length - 1] = lines.at(-1)!.slice(0, end.column - 1)
  return lines.join('\n').slice(start.column - 1)
}

const inOneLine = (text: string) => text.replace(/\s+/g, ' ').slice(0, 90)

const CUT = /\.slice\(0, [\d_A-Z]+\)/

/** Why it need not be noticed, or is not by these tests; undefined where nobody has said. */
function reasonOf({
  file,
  text,
  replacement = '',
  status,
}: Mutated & { file: string; text: string }): string | undefined {
  const same = EQUIVALENT.find(([where, what, to]) => where === file && what === text && to === replacement)
  if (same) return `the same: ${same[3]}`
  if (CUT.test(text) && text.replace(CUT, '') === replacement) return 'how much of a wrong value is quoted'
  if (status === 'NoCoverage') return 'reached over HTTP only, by tests that are not asked here'
  return replacement === '{}' && /^\{/.test(text) ? 'what is written down of it is held over HTTP' : undefined
}

function tellOf(name: string, { files }: Report): boolean {
  const all = Object.entries(files).flatMap(([file, { source, mutants }]) =>
    mutants.map((one) => ({ ...one, file, text: textAt(source, one.location) })),
  )
  const judged = all.filter((one) => !['Ignored', 'CompileError'].includes(one.status))
  const left = judged.filter((one) => !['Killed', 'Timeout', 'RuntimeError'].includes(one.status) && !cannotBegin(one))
  const share = (100 * (judged.length - left.length)) / judged.length
  for (const one of left) {
    const { file, location, text, replacement = '', status } = one
    const why = reasonOf(one)
    say(
      `  ${status.toLowerCase()}  ${file}:${location.start.line}  ${inOneLine(text)}  →  ${inOneLine(replacement)}  (${why ?? 'no reason known'})`,
    )
  }
  const good = share >= FLOOR
  say(
    `${good ? '●' : '✕'} ${name}: ${share.toFixed(1)} % of ${judged.length} noticed, ${left.length} not (at least ${FLOOR} %)`,
  )
  return good
}
