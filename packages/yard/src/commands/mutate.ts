import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { ROOT, say } from '../machine/place.js'
import { LISTED, type Mutant } from './listed-mutants.js'
import { mutateWhole } from './mutate-whole.js'

/** What hangs is noticed, too. */
const LIMIT_MS = 180_000

/** What puts the present file back, and ends the tests that run on it. */
let putBack = (): void => undefined

/** Breaks one check at a time and runs the tests of its area; a break that no test notices is named. Files are put back whatever happens. */
export async function main(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: { listed: { type: 'boolean' }, whole: { type: 'boolean' } },
    allowPositionals: true,
  })
  if (values.whole) return mutateWhole(positionals)
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
    process.on(signal, () => {
      putBack()
      process.exit(1)
    })
  const survived: string[] = []
  for (const mutant of LISTED) {
    const [name, file] = mutant
    if (positionals.length > 0 && !positionals.some((word) => `${name} ${file}`.includes(word))) continue
    const fate = await judge(mutant)
    say(`${FATES[fate]}  ${name}`)
    if (fate === 'survived') survived.push(name)
    else if (fate === 'lost') survived.push(`${name} (its text is not in ${file} any more)`)
  }
  if (survived.length === 0) return 0
  say(`\n${survived.length} noticed by no test:\n${survived.map((one) => `  ${one}`).join('\n')}`)
  return 1
}

const FATES = { killed: '● killed', survived: '✕ survived', lost: '?' } as const

async function judge([, file, from, to, tests]: Mutant): Promise<keyof typeof FATES> {
  const path = join(ROOT, file)
  const before = readFileSync(path, 'utf8')
  if (!before.includes(from)) return 'lost'
  const run = ['run', '--bail', '1', '--reporter', 'dot', ...tests.map((one) => `/${one}.test`)]
  let child: ReturnType<typeof spawn> | undefined
  putBack = () => {
    child?.kill()
    writeFileSync(path, before)
  }
  try {
    writeFileSync(
      path,
      before.replace(from, () => to),
    )
    child = spawn(join(ROOT, 'node_modules/.bin/vitest'), run, { cwd: ROOT, stdio: 'ignore', timeout: LIMIT_MS })
    const [status] = (await once(child, 'close')) as [number | null]
    return status === 0 ? 'survived' : 'killed'
  } finally {
    putBack()
    putBack = () => undefined
  }
}
