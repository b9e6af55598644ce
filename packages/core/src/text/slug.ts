import { cutEnd, cutEnds } from './ends.js'

const MAX_CHARACTERS = 60

/** A short name made of a title, for addresses and commands; `fallback` for titles without any usable letter. */
export function slugOf(title: string, fallback: string): string {
  const plain = title
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[\u0300-\u036f'’]/g, '')
    .replace(/[^a-z0-9]+/g, '-')
  return cutEnd(cutEnds(plain, '-').slice(0, MAX_CHARACTERS), '-') || fallback
}

/** The slug itself, or the first `slug-2`, `slug-3` … that is not taken. */
export function freeSlug(slug: string, taken: readonly string[]): string {
  if (!taken.includes(slug)) return slug
  for (let n = 2; ; n++) if (!taken.includes(`${slug}-${n}`)) return `${slug}-${n}`
}
