import { createHmac, timingSafeEqual } from 'node:crypto'

/** A message code over a text: 128 bits of HMAC-SHA256, base64url. */
export function sealText(key: Uint8Array, text: string): string {
  return createHmac('sha256', key).update(text).digest().subarray(0, 16).toString('base64url')
}

export function sameSeal(a: string, b: string): boolean {
  const [one, other] = [Buffer.from(a), Buffer.from(b)]
  return one.length === other.length && timingSafeEqual(one, other)
}
