import { createHmac, timingSafeEqual } from 'node:crypto'
import OAuth from 'oauth-1.0a'

export type Fields = Record<string, string>

/** Why a launch is refused, in the words of a tool. */
export class LaunchRefused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message)
  }
}

const WINDOW_SECONDS = 300
const NONCE_KEPT_MS = 90 * 60_000
const HASHES: Record<string, string> = { 'HMAC-SHA1': 'sha1', 'HMAC-SHA256': 'sha256' }

/** The signing library, set up for one key and secret. */
export function signer(key: string, secret: string, method = 'HMAC-SHA1'): OAuth {
  return new OAuth({
    consumer: { key, secret },
    signature_method: method,
    hash_function: (text, signingKey) =>
      createHmac(HASHES[method] ?? 'sha1', signingKey)
        .update(text)
        .digest('base64'),
  })
}

/** Verifies launches as an honest tool does: key, signature, timestamp, nonce, then the parameters that must be there. */
export class LaunchVerifier {
  private readonly seen = new Map<string, number>()

  constructor(
    private readonly secrets: Readonly<Record<string, string | readonly string[]>>,
    private readonly now: () => number = Date.now,
    private readonly tool = 'Knotwork',
  ) {}

  /** @param url as the browser called it. @throws LaunchRefused */
  verify(url: string, fields: Fields, options: { secret?: string; picker?: boolean } = {}): void {
    const key = fields['oauth_consumer_key'] ?? ''
    const known = this.secrets[key]
    const held = options.secret ?? known
    if (held === undefined || known === undefined)
      throw new LaunchRefused(401, `${this.tool} does not know the consumer key “${key}”.`)
    const method = fields['oauth_signature_method'] ?? ''
    if (!(method in HASHES))
      throw new LaunchRefused(401, `${this.tool} cannot verify the signature method “${method}”.`)

    const { oauth_signature: given = '', ...rest } = fields
    const own = Object.entries(rest)
    const oauthData = Object.fromEntries(own.filter(([name]) => name.startsWith('oauth_')))
    const data = Object.fromEntries(own.filter(([name]) => !name.startsWith('oauth_')))
    const matches = [held].flat().some((secret) => {
      const expected = signer(key, secret, method).getSignature(
        { url, method: 'POST', data },
        undefined,
        oauthData as unknown as OAuth.Data,
      )
      const [a, b] = [Buffer.from(given), Buffer.from(expected)]
      return a.length === b.length && timingSafeEqual(a, b)
    })
    if (!matches) throw new LaunchRefused(401, 'The signature of this launch does not match.')

    this.checkFreshness(key, fields)
    const picks = options.picker && fields['lti_message_type'] === 'ContentItemSelectionRequest'
    if (fields['lti_message_type'] !== 'basic-lti-launch-request' && !picks)
      throw new LaunchRefused(400, 'This is not a launch of a resource link.')
    for (const name of [picks ? 'content_item_return_url' : 'resource_link_id', 'user_id', 'roles'])
      if (!fields[name]) throw new LaunchRefused(400, `The launch does not say ${name}.`)
  }

  private checkFreshness(key: string, fields: Fields): void {
    const timestamp = Number(fields['oauth_timestamp'])
    const now = this.now()
    if (!(Math.abs(now / 1000 - timestamp) <= WINDOW_SECONDS))
      throw new LaunchRefused(401, 'This launch is too old, or our clocks differ.')
    for (const [nonce, until] of this.seen) {
      if (until > now) break
      this.seen.delete(nonce)
    }
    const nonce = `${key} ${fields['oauth_nonce'] ?? ''}`
    if (this.seen.has(nonce)) throw new LaunchRefused(401, 'This launch was used before.')
    this.seen.set(nonce, now + NONCE_KEPT_MS)
  }
}
