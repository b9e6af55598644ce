import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { ERRORS, operations } from '@bathyscribe/contract'
import { describe, expect, it } from 'vitest'

const ROOT = new URL('../../../', import.meta.url).pathname
const read = (path: string) => readFileSync(join(ROOT, path), 'utf8')

function sources(folder: string): string[] {
  return readdirSync(join(ROOT, folder), { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? sources(`${folder}/${entry.name}`) : [`${folder}/${entry.name}`],
  )
}

describe('the error catalogue', () => {
  it('is documented row by row, and nothing else is', () => {
    const documented = [...read('docs/errors.md').matchAll(/^\| `([a-z_.0-9]+)` \| (\d+) \| (.*) \| (.*) \|$/gm)].map(
      (row) => row.slice(1, 5),
    )
    expect(documented).toEqual(
      Object.entries(ERRORS).map(([code, kind]) => [code, String(kind.status), kind.sentence, kind.hint]),
    )
  })

  it('holds no code that nothing can answer', () => {
    const code = ['packages/core/src', 'packages/service/src', 'packages/contract/src/client']
      .flatMap(sources)
      .map(read)
      .join('\n')
    expect(Object.keys(ERRORS).filter((one) => !code.includes(`'${one}'`))).toEqual([])
  })

  it('speaks in whole sentences, with a hint for each', () => {
    for (const { sentence, hint } of Object.values(ERRORS)) {
      expect(sentence).toMatch(/^[A-Z].*\.$/)
      expect(hint).toMatch(/^[A-Z].*\.$/)
    }
  })
})

describe('the calls of the API', () => {
  it('have one address each, and their parameters stand in it', () => {
    const all = Object.values(operations)
    expect(new Set(all.map((one) => `${one.method} ${one.path}`)).size).toBe(all.length)
    for (const { path, params } of all) {
      const named = [...path.matchAll(/:(\w+)/g)].map(([, name]) => name)
      expect(named.sort()).toEqual(Object.keys(params?.shape ?? {}).sort())
    }
  })

  it('that change something need more than the scope for reading, unless they only ask', () => {
    const asking = [
      'setUp',
      'readSignInLink',
      'useSignInLink',
      'signIn',
      'signOut',
      'preflightAssignment',
      'readAddress',
      'checkTable',
      'previewRecount',
      'previewReplacement',
      'previewAddressMove',
      'previewMerge',
      'explainMessage',
    ]
    for (const [name, { method, access }] of Object.entries(operations))
      if (method !== 'GET' && !asking.includes(name)) expect(access.scope, name).not.toBe('read')
  })
})

describe('docs/conformance.md', () => {
  it('names only files that are there, and tests that are there', () => {
    const rows = [...read('docs/conformance.md').matchAll(/^\| .* \| .* \| `([^`]+)` *\| (.*?) *\|$/gm)]
    expect(rows.length).toBeGreaterThan(20)
    for (const [, file, tests] of rows) {
      expect(existsSync(join(ROOT, 'packages', file!)), file).toBe(true)
      for (const [, test, title] of tests!.matchAll(/`([^`]+)` “([^”]+)”/g)) {
        const text = read(`packages/${test!}`)
        const parts = title!
          .split('…')
          .map((part) => part.trim())
          .filter(Boolean)
        for (const part of parts) expect(text, `${test} ${title}`).toContain(part.replace(/^as$/, 'as %s'))
      }
    }
  })

  it('nor does what is said of how it is built', () => {
    const pages = ['docs/architecture.md', 'docs/adding.md', 'CONTRIBUTING.md'].map(read).join('\n')
    const inPackages = [...pages.matchAll(/`((?:core|contract|service|cli|console|practice-tools)\/[\w./-]+)`/g)]
    const inService = [
      ...pages.matchAll(/`((?:http|inbound|desk|records|wire|jobs|keys|workers|settings)\/[\w./-]*)`/g),
    ]
    const inRoot = [...pages.matchAll(/(?:`|\]\()((?:packages|docs|scripts|test)\/[\w./-]+)/g)]
    const there = (folder: string, path: string) =>
      existsSync(join(ROOT, folder, path)) || existsSync(join(ROOT, folder, path.replace('/', '/src/')))
    expect(inPackages.length + inService.length + inRoot.length).toBeGreaterThan(40)
    for (const [, path] of inPackages) expect(there('packages', path!), path).toBe(true)
    for (const [, path] of inService) expect(there('packages/service/src', path!), path).toBe(true)
    for (const [, path] of inRoot) expect(there('.', path!), path).toBe(true)
  })

  it('README’s pictures are there, and fewer than twenty', () => {
    const pictures = [...read('README.md').matchAll(/\(docs\/screenshots\/([^)]+)\)/g)].map(([, name]) => name!)
    expect(readdirSync(join(ROOT, 'docs/screenshots')).sort()).toEqual([...new Set(pictures)].sort())
    expect(pictures.length).toBeLessThan(20)
  })
})
