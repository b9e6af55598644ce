import { lookAlike } from '@bathyscribe/core/links'
import type { RegistrationRecord } from '../../records/entities/tools.js'

/** What a registration has in common with one that is to be made. */
export function sameness(
  one: RegistrationRecord,
  wanted: {
    name?: string | undefined
    consumerKey?: string | undefined
    launchUrl?: string | null | undefined
    initiationUrl?: string | null | undefined
  },
): ('key' | 'client' | 'launch address' | 'name')[] {
  return [
    ...(wanted.consumerKey && one.consumerKey === wanted.consumerKey ? (['key'] as const) : []),
    ...(wanted.initiationUrl && one.initiationUrl === wanted.initiationUrl ? (['client'] as const) : []),
    ...(wanted.launchUrl && one.launchUrl === wanted.launchUrl ? (['launch address'] as const) : []),
    ...(wanted.name && one.likeness === lookAlike(wanted.name) ? (['name'] as const) : []),
  ]
}
