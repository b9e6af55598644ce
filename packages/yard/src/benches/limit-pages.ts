import { createHash } from 'node:crypto'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { FastifyReply, FastifyRequest } from 'fastify'

/** Whether a parameter is kept without its value. */
export const isSecret = (name: string) => name.endsWith('_hint') || name === 'oauth_signature'

export function masked({ headers }: FastifyRequest): Record<string, string | undefined> {
  return { 'content-type': headers['content-type'], authorization: headers.authorization && '…' }
}

/** The SHA-256 of the session's token, as the records hold it. */
export function sessionOf({ headers }: FastifyRequest): Buffer {
  const token = /(?:^|; )bathyscribe_session=([^;]+)/.exec(headers.cookie ?? '')?.[1] ?? ''
  return createHash('sha256').update(token).digest()
}

const escape = (text: string) =>
  text.replace(/[&<>"]/g, (one) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;' })[one] ?? '&quot;')

export function form(reply: FastifyReply, url: string, fields: readonly Parameter[]): FastifyReply {
  const inputs = fields.map(([name, value]) => `<input type="hidden" name="${escape(name)}" value="${escape(value)}">`)
  return reply
    .type('text/html; charset=utf-8')
    .header('cache-control', 'no-store')
    .header('content-security-policy', `default-src 'none'; script-src 'self'; form-action ${new URL(url).origin}`)
    .send(`<!doctype html><title>Opening…</title><form id="launch" method="post" action="${escape(url)}">${inputs.join('')}</form><script src="/lti/assets/launch.js"></script>`) // oxfmt-ignore
}
