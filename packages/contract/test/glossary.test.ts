import { readFileSync } from 'node:fs'
import { GLOSSARY } from '@bathyscribe/contract'
import { readHandover, type Field } from '@bathyscribe/core/intake'
import { glossaryPage } from '@bathyscribe/yard/pages/glossary-page'
import { describe, expect, it } from 'vitest'

const ENTRIES = GLOSSARY.flatMap(({ entries }) => entries)

/** What intake reads, by our word for it, with a value as a vendor would send it. */
const READ: Record<string, [Field | 'disclosure', string]> = {
  'consumer key': ['consumerKey', 'skerrow-knots'],
  'shared secret': ['sharedSecret', 'halyard-3-bowline'],
  'client ID': ['clientId', 'k2m9x7p1qzd'],
  'launch address': ['launchUrl', 'https://tool.example/start'],
  'login initiation address': ['initiationUrl', 'https://tool.example/begin'],
  'redirect address': ['redirectUri', 'https://tool.example/arrive'],
  'keyset address': ['keysetUrl', 'https://tool.example/k'],
  'personal data it sees': ['disclosure', 'name only'],
  picker: ['pickerUrl', 'https://tool.example/choose'],
}

describe('the glossary', () => {
  it('is shown in docs/glossary.md as it is', () => {
    expect(readFileSync(new URL('../../../docs/glossary.md', import.meta.url), 'utf8')).toBe(glossaryPage())
  })

  it('explains each word once, in a sentence', () => {
    const words = ENTRIES.map(({ word }) => word)
    expect(new Set(words).size).toBe(words.length)
    for (const { means } of ENTRIES) expect(means).toMatch(/^[A-Z].*\.$/)
    expect(Object.keys(READ).filter((word) => !words.includes(word))).toEqual([])
  })

  const labels = Object.entries(READ).flatMap(([word, [field, value]]) =>
    [word, ...(ENTRIES.find((one) => one.word === word)?.also ?? [])].map((label) => [label, field, value] as const),
  )
  it.each(labels)('says what intake takes “%s” for: %s', (label, field, value) => {
    const { recognised, beyond } = readHandover(`${label}: ${value}`, new Date('2026-12-01T08:00:00Z'))
    const offered = beyond.flatMap(({ mightFill }) => mightFill?.field ?? [])
    expect([...recognised.map((one) => one.field), ...offered]).toEqual([field])
  })
})
