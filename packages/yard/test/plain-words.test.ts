import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'

const ROOT = new URL('../../', import.meta.url).pathname
const SPEAKING = ['core', 'contract', 'service', 'console', 'cli']

/** Words that nobody says any longer, or that mean something else to most, with the one that is used. */
const INSTEAD: readonly (readonly [RegExp, string])[] = [
  [/\banew\b|\bafresh\b/i, 'again'],
  [/\bany more\b/i, 'no longer'],
  [/letter by letter/i, 'exactly'],
  [/\bblanks?\b(?! page)/i, 'space'],
  [/\bmend(ed|s|ing)?\b/i, 'fix'],
  [/\ball the same\b|\bnevertheless\b/i, 'anyway'],
  [/none of ours/i, 'unknown here'],
  [/\bhangs? (its |their )?(permissions )?on\b/i, 'depends on'],
  [/\bfigures\b/i, 'digits'],
  [/\bshall\b/i, 'should, or the plain present'],
]

/** Every text of a program that has a blank in it: what people may read, and no name of anything. */
function textsOf(code: string): string[] {
  const found: string[] = []
  const visit = (node: ts.Node): void => {
    if (ts.isStringLiteralLike(node) || ts.isTemplateHead(node) || ts.isTemplateMiddleOrTemplateTail(node))
      found.push(node.text)
    ts.forEachChild(node, visit)
  }
  visit(ts.createSourceFile('a.ts', code, ts.ScriptTarget.Latest))
  return found.filter((text) => text.includes(' '))
}

/** A component: what its script says, and what stands between the tags and in the attributes of its template. */
function textsOfComponent(code: string): string[] {
  const script = /<script[^>]*>([^]*?)<\/script>/.exec(code)?.[1] ?? ''
  const template = /<template>([^]*)<\/template>/.exec(code)?.[1] ?? ''
  return [...textsOf(script), template.replace(/<!--[^]*?-->|\sclass="[^"]*"/g, '')]
}

const sources = SPEAKING.flatMap((name) =>
  readdirSync(join(ROOT, name, 'src'), { recursive: true, encoding: 'utf8' })
    .filter((path) => /\.(ts|vue)$/.test(path) && !path.includes('migrations/'))
    .map((path) => join(ROOT, name, 'src', path)),
)

describe('what people read', () => {
  it('is looked through', () => {
    expect(sources.length).toBeGreaterThan(400)
    expect(textsOf("const a = 'So it is.' + `and ${b} more of it`")).toEqual(['So it is.', 'and ', ' more of it'])
  })

  it('says things in the words of today', () => {
    const found = sources.flatMap((path) => {
      const code = readFileSync(path, 'utf8')
      const texts = path.endsWith('.vue') ? textsOfComponent(code) : textsOf(code)
      return texts.flatMap((text) =>
        INSTEAD.flatMap(([pattern, instead]) => {
          const word = pattern.exec(text)
          return word
            ? [
                `${path.slice(ROOT.length)}: “${text.slice(Math.max(0, word.index - 30), word.index + 30)}” → ${instead}`,
              ]
            : []
        }),
      )
    })
    expect(found).toEqual([])
  })
})
