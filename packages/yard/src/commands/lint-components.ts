import { spawnSync } from 'node:child_process'
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROOT, RUN } from '../machine/place.js'

const CONSOLE = 'packages/console'
const FOLDER = join(RUN, 'components')
const SCRIPT = /<script setup lang="ts">([^]*?)<\/script>/
/** What a component looks like to those who use it: its props are the business of the console's own compiler. */
const ITSELF = `\nexport default {} as import('vue').Component\n`

/**
 * Lints the scripts of the console's components with their types: the linter reads types of TypeScript only, so each script is laid out as a file of its own, on the lines where it
 * stands in its component, beside the console's other sources.
 */
export function main(): number {
  rmSync(FOLDER, { recursive: true, force: true })
  const source = join(ROOT, CONSOLE, 'src')
  const target = join(FOLDER, CONSOLE, 'src')
  mkdirSync(target, { recursive: true })
  cpSync(source, target, { recursive: true, filter: (path) => !path.endsWith('.vue') })
  for (const name of readdirSync(source, { recursive: true, encoding: 'utf8' })) {
    if (!name.endsWith('.vue')) continue
    const text = readFileSync(join(source, name), 'utf8')
    const found = SCRIPT.exec(text)
    const before = found ? text.slice(0, found.index).replace(/[^\n]/g, '') : ''
    writeFileSync(join(target, `${name}.ts`), `${before}${found?.[1] ?? ''}${ITSELF}`)
  }
  writeFileSync(
    join(FOLDER, CONSOLE, 'tsconfig.json'),
    readFileSync(join(ROOT, CONSOLE, 'tsconfig.json'), 'utf8').replace(
      '../../tsconfig.base.json',
      join(ROOT, 'tsconfig.base.json'),
    ),
  )
  // What a template alone uses is unused to who does not see it.
  const config = readFileSync(join(ROOT, '.oxlintrc.json'), 'utf8')
    .replace(/"no-unused-vars": \[[^\]]*\]/, '"no-unused-vars": "off"')
    // It takes the types in `reactive({ side: 'new' as 'new' | 'old' })` for superfluous, which they are not.
    .replace(/("typescript\/no-unnecessary-type-assertion"): "error"/, '$1: "off"')
    .replace(/"ignorePatterns": .*/, '')
  writeFileSync(join(FOLDER, '.oxlintrc.json'), config)
  // Named one by one: a folder that is not kept is not looked into.
  const files = readdirSync(target, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.vue.ts'))
  const args = ['--type-aware', '--no-ignore', '--deny-warnings', ...files.map((name) => join(target, name))]
  return spawnSync(join(ROOT, 'node_modules/.bin/oxlint'), args, { cwd: FOLDER, stdio: 'inherit' }).status ?? 1
}
