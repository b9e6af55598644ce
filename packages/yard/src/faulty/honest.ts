import type { SignatureFacts, TokenFacts } from '@bathyscribe/core/diagnosis'
import fc from 'fast-check'
import { signatureBy, type Sent } from './signer.js'

// Messages with nothing wrong, in every form that a sender may give them, and of which none is like another.

const word = fc.string({ unit: fc.constantFrom(...'abcdefghijklmnopqrstuvwxyzABCDEFXYZ0123456789-_.~'), minLength: 1, maxLength: 12 }) // oxfmt-ignore
/** What people write: accents, blanks, marks, line ends, more than one script, nothing at all. */
const text = fc.oneof(
  { weight: 4, arbitrary: fc.string({ unit: 'grapheme', maxLength: 40 }) },
  { weight: 2, arbitrary: fc.string({ unit: 'grapheme-ascii', maxLength: 40 }) },
  fc.constantFrom('', ' ', '+', '%', '%2B', '&amp;', "it's", 'a\r\nb', 'a\nb', '100 %', 'é', 'e\u0301', 'ß', '日本', '😀', 'a=b&c=d'), // oxfmt-ignore
)
const name = fc.oneof(
  word.map((one) => `custom_${one}`),
  word.map((one) => `ext_${one}`),
  fc.constantFrom('resource_link_id', 'resource_link_title', 'user_id', 'roles', 'context_label', 'commit', 'utf8', 'lis_person_name_full', 'custom_item[a]'), // oxfmt-ignore
)
/** As a form encodes it, or as an address does. */
const inQuery = fc
  .tuple(fc.oneof(word, text), fc.boolean())
  .map(([one, asForm]) => (asForm ? new URLSearchParams([['', one]]).toString().slice(1) : encodeURIComponent(one)))
const url = fc
  .record({
    scheme: fc.constantFrom('http', 'https'),
    host: fc.constantFrom('tools.skerrow.example', 'TOOLS.skerrow.example', 'lti.skerrow.example:8443', '127.0.0.1:8080', '192.0.2.7'), // oxfmt-ignore
    path: fc.array(
      fc.oneof(
        word.filter((one) => !/^\.+$/.test(one)),
        text.map(encodeURIComponent),
      ),
      { maxLength: 4 },
    ),
    slash: fc.constantFrom('', '/'),
    query: fc.array(fc.tuple(word, inQuery), { maxLength: 4 }),
  })
  .map(({ scheme, host, path, slash, query }) => {
    const asked = query.map(([key, value]) => `${key}=${value}`).join('&')
    const folders = path.filter((one) => !/^(\.|%2e)*$/i.test(one))
    return `${scheme}://${host}/${folders.join('/')}${folders.length > 0 ? slash : ''}${asked && `?${asked}`}`
  })

const secret = fc.oneof(
  fc.string({ unit: 'grapheme-ascii', minLength: 8, maxLength: 40 }),
  fc.string({ unit: 'grapheme', minLength: 8, maxLength: 24 }),
  fc.uuid(),
)

export interface Honest extends Sent {
  previous: string[]
  others: string[]
}

/** A signed message of OAuth 1.0a, with other secrets around it that it was not signed by. */
export const honestMessage: fc.Arbitrary<Honest> = fc
  .record({
    method: fc.constantFrom('POST', 'POST', 'POST', 'GET', 'PUT', 'DELETE'),
    url,
    fields: fc.array(fc.tuple(name, text), { maxLength: 25 }),
    version: fc.boolean(),
    callback: fc.boolean(),
    nonce: fc.uuid(),
    at: fc.integer({ min: 1_700_000_000, max: 1_900_000_000 }),
    consumerKey: fc.oneof(word, text).filter((one) => one !== ''),
    sharedSecret: secret,
    hash: fc.constantFrom<'sha1' | 'sha256'>('sha1', 'sha1', 'sha256'),
    previous: fc.array(secret, { maxLength: 2 }),
    others: fc.array(secret, { maxLength: 8 }),
  })
  .map(({ version, callback, nonce, at, ...one }) => ({
    ...one,
    fields: [
      ...one.fields,
      ['oauth_consumer_key', one.consumerKey],
      ['oauth_nonce', nonce],
      ['oauth_signature_method', one.hash === 'sha1' ? 'HMAC-SHA1' : 'HMAC-SHA256'],
      ['oauth_timestamp', String(at)],
      ...(version ? [['oauth_version', '1.0'] as const] : []),
      ...(callback ? [['oauth_callback', 'about:blank'] as const] : []),
    ],
  }))

/** As the other end knows it. @param signature as it was sent; of an honest message its own */
export function factsOfHonest(sent: Honest, signature = signatureBy(sent)): SignatureFacts {
  return {
    request: { method: sent.method, url: sent.url, parameters: sent.fields.map(([key, value]) => [key, value]) },
    signature,
    signatureMethod: sent.hash === 'sha1' ? 'HMAC-SHA1' : 'HMAC-SHA256',
    held: { label: 'Knotwork Drills', consumerKey: sent.consumerKey, sharedSecret: sent.sharedSecret },
    previous: sent.previous,
    others: sent.others.map((one, n) => ({ label: `Tool ${n}`, consumerKey: `key-${n}`, sharedSecret: one })),
    hosts: ['127.0.0.1:8080', 'localhost:8080', 'localhost'],
  }
}

/** As many bytes as a hash has, of no message. */
export const randomSignature = fc
  .constantFrom(20, 20, 20, 32)
  .chain((bytes) => fc.uint8Array({ minLength: bytes, maxLength: bytes }))
  .map((bytes) => Buffer.from(bytes).toString('base64'))

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const PLATFORM = 'https://lti.skerrow.example'
const some = <T extends object>(optional: T) => fc.record(optional as never, { requiredKeys: [] }) as fc.Arbitrary<Record<string, unknown>> // oxfmt-ignore
const times = fc
  .record({ now: fc.integer({ min: 1_700_000_000, max: 1_900_000_000 }), ago: fc.integer({ min: 0, max: 200 }) })
  .map(({ now, ago }) => ({ now, iat: now - ago, exp: now - ago + 300 }))
/** An audience as one, as a list of one, and beside another. */
const inForm = fc.constantFrom<(one: string) => unknown>(
  (one) => one,
  (one) => [one],
  (one) => [one, 'another'],
)

/** A token of each kind that is right (LTI 1.3 section 5.3; Deep Linking 2.0 section 4.5; RFC 7523 section 3), with claims beside it that nobody asked for. */
export const honestToken: fc.Arbitrary<TokenFacts> = fc
  .record({
    times,
    kind: fc.constantFrom<'launch' | 'picked' | 'assertion'>('launch', 'picked', 'assertion'),
    tool: fc.constantFrom(0, 1, 2),
    kid: fc.constantFrom('one', 'two'),
    audience: inForm,
    platform: fc.constantFrom(PLATFORM, `${PLATFORM}/lti/token`),
    beside: some({ email: text, name: text, jti: fc.uuid(), azp: text, locale: fc.constantFrom('en', 'de') }),
    nonce: fc.uuid(),
    header: some({ typ: fc.constant('JWT'), jku: fc.webUrl() }),
  })
  .map(({ times: { now, iat, exp }, kind, tool, kid, audience, platform, beside, nonce, header }) => {
    const client = `client-${tool}`
    const common = { iat, exp, nonce, [`${CLAIM}version`]: '1.3.0', [`${CLAIM}deployment_id`]: `d${tool}` }
    const of = {
      launch: { ...common, iss: PLATFORM, sub: nonce, aud: audience(client), [`${CLAIM}message_type`]: 'LtiResourceLinkRequest', [`${CLAIM}target_link_uri`]: 'https://x.example/', [`${CLAIM}roles`]: [] },
      picked: { ...common, iss: client, aud: audience(PLATFORM), [`${CLAIM}message_type`]: 'LtiDeepLinkingResponse', 'https://purl.imsglobal.org/spec/lti-dl/claim/content_items': [], 'https://purl.imsglobal.org/spec/lti-dl/claim/data': nonce },
      assertion: { iat, exp, jti: nonce, iss: client, sub: client, aud: audience(platform) },
    }[kind] // oxfmt-ignore
    return {
      kind,
      header: { ...header, alg: 'RS256', kid },
      claims: { ...beside, ...of },
      nowSeconds: now,
      leewaySeconds: 60,
      issuer: PLATFORM,
      tokenUrl: `${PLATFORM}/lti/token`,
      tools: [0, 1, 2].map((n) => ({ label: `Tool ${n}`, clientId: `client-${n}`, deployments: [`d${n}`, `e${n}`] })),
      earlierIssuers: ['https://before.skerrow.example'],
      asked: null,
      token: '',
      keys: null,
      others: [],
    }
  })
