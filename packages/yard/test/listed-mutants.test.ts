import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { EQUIVALENT } from '@bathyscribe/yard/commands/equivalent-mutants'
import { LISTED } from '@bathyscribe/yard/commands/listed-mutants'
import { ROOT } from '@bathyscribe/yard/machine/place'
import { describe, expect, it } from 'vitest'

const tests = [
  'packages/core/test',
  'packages/contract/test',
  'packages/service/test',
  'packages/console/test',
].flatMap((folder) => readdirSync(join(ROOT, folder)))

describe('a listed mutant', () => {
  it.each(LISTED)('%s', (_name, file, from, to, noticing) => {
    const text = readFileSync(join(ROOT, file), 'utf8')
    expect(text.split(from), 'its text stands in its file, once').toHaveLength(2)
    expect(to, 'it is another text').not.toBe(from)
    for (const one of noticing) expect(tests, 'who notices it is there').toContain(`${one}.test.ts`)
  })

  it('has a name of its own', () => {
    expect(new Set(LISTED.map(([name]) => name)).size).toBe(LISTED.length)
  })
})

describe('a break that nobody could see', () => {
  it.each(EQUIVALENT)('%s: %s → %s', (file, text, to, why) => {
    expect(readFileSync(join(ROOT, file), 'utf8'), 'its text stands in its file').toContain(text)
    expect(to).not.toBe(text)
    expect(why).toMatch(/\w+ \w+/)
  })
})
