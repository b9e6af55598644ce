import { base64url, unbase64url } from '@bathyscribe/core/lti13'
import { sealText, sameSeal } from '../../keys/seal-text.js'
import type { Context } from '../context.js'

/** A tool may fetch a file by its address for this long. */
export const FILE_LINK_SECONDS = 300

/** An address by which one file can be read for a short time, by whoever holds it. */
export function fileLink(
  { settings, keys, clock }: Pick<Context, 'settings' | 'keys' | 'clock'>,
  fileId: string,
): { href: string; expiresAt: Date } {
  const expires = Math.floor(clock.now().getTime() / 1000) + FILE_LINK_SECONDS
  const body = base64url(new TextEncoder().encode(`${fileId} ${expires}`))
  return {
    href: `${settings.publicUrl}/lti/files/${body}.${sealText(keys.hintKeys[0], `file ${body}`)}`,
    expiresAt: new Date(expires * 1000),
  }
}

/** The file of such an address; undefined when it was not written by us, or is over. */
export function readFileLink({ keys, clock }: Pick<Context, 'keys' | 'clock'>, token: string): string | undefined {
  const [body = '', seal = ''] = token.split('.')
  if (!keys.hintKeys.some((key) => sameSeal(seal, sealText(key, `file ${body}`)))) return undefined
  const [id = '', expires = '0'] = new TextDecoder().decode(unbase64url(body)).split(' ')
  return Number(expires) > clock.now().getTime() / 1000 ? id : undefined
}
