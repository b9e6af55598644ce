import type { Context } from '../context.js'

/** Who writes, below a letter: the house, its contact address, and where it is. */
export function signatureOf({ settings }: Pick<Context, 'settings'>): string {
  return [settings.platformName, settings.contactEmail, settings.publicUrl].filter(Boolean).join(' · ')
}
