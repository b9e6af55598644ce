import { withoutBracketed } from '../text/index.js'
const NOISE = new Set([
  'lti',
  'tool',
  'new',
  'old',
  'test',
  'demo',
  'beta',
  'the',
  'for',
  'version',
  'advantage',
  'external',
  'copy',
])

/**
 * What names of look-alike tools have in common: letters and figures only, without accents, brackets, versions and filling words.
 * Two registrations of the same likeness are easily taken for one another.
 */
export function lookAlike(name: string): string {
  const plain = name.normalize('NFKD').toLowerCase().replace(/\p{M}/gu, '')
  const words = withoutBracketed(withoutBracketed(plain, '(', ')'), '[', ']')
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '' && !NOISE.has(word) && !/^v?\d+$/.test(word))
  return words.join('') || plain.replace(/[^\p{L}\p{N}]+/gu, '')
}
