import { freeSlug, slugOf } from '@bathyscribe/core/text'
import type { Records } from '../../records/index.js'

/** A slug for a new registration that no other one has yet. */
export async function freeToolSlug({ tools }: Pick<Records, 'tools'>, title: string): Promise<string> {
  const slug = slugOf(title, 'tool')
  return freeSlug(slug, await tools.slugsLike(slug))
}
