/** The load of the benchmarks, in a process of its own: takes one job from its parent, answers with what came back. */
import { createHash, createHmac, createPrivateKey, randomBytes, sign, type KeyObject } from 'node:crypto'
import autocannon, { type Request } from 'autocannon'

/** Jobs by what is sent. */
export type LoadJob =
  | { kind: 'bare' }
  | ({ kind: 'outcomes' } & Outcomes)
  /** Outcomes by a wrong secret, which are to be refused. */
  | ({ kind: 'refused' } & Outcomes)
  | ({ kind: 'ags' } & Scores)
  | ({ kind: 'token13' } & Tokens)
  | ({ kind: 'launch' } & Launches)
  | ({ kind: 'launch13' } & Launches & { clientId: string; redirectUri: string })

/** What is wanted of the load: a job, against what, for so long or so often. */
export type Load = LoadJob & {
  target: string
  connections: number
  /** Requests made before the clock starts: what is measured is the service, not the signing of the load. */
  prepare: number
  seconds?: number
  amount?: number
  /** Requests a second at the most; as many as are answered unless given. */
  rate?: number
  /** What a good answer holds. */
  expect?: string
}

/** What came back. */
export interface Loaded {
  perSecond: number
  total: number
  wrong: number
  non2xx: number
  errors: number
  p99: number
  p50: number
}

interface Outcomes {
  url: string
  path: string
  key: string
  secret: string
  resultIds: readonly string[]
}
interface Scores {
  path: string
  bearer: string
  subjects: readonly string[]
}
interface Tokens {
  url: string
  path: string
  clientId: string
  scope: string
  kid: string
  pem: string
}
interface Launches {
  path: string
  cookies: readonly string[]
}

const encode = (text: string) =>
  encodeURIComponent(text).replace(/[!'()*]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase())

/** Signs one replaceResult with node's own crypto, so that the load costs as little as it can. */
function outcomeRequest({ url, path, key, secret, resultIds }: Outcomes, n: number): Request {
  const score = ((n % 1000) / 1000).toFixed(3)
  const body = `<?xml version="1.0" encoding="UTF-8"?><imsx_POXEnvelopeRequest xmlns="http://www.imsglobal.org/services/ltiv1p1/xsd/imsoms_v1p0"><imsx_POXHeader><imsx_POXRequestHeaderInfo><imsx_version>V1.0</imsx_version><imsx_messageIdentifier>m${n}</imsx_messageIdentifier></imsx_POXRequestHeaderInfo></imsx_POXHeader><imsx_POXBody><replaceResultRequest><resultRecord><sourcedGUID><sourcedId>${resultIds[n % resultIds.length]}</sourcedId></sourcedGUID><result><resultScore><language>en</language><textString>${score}</textString></resultScore></result></resultRecord></replaceResultRequest></imsx_POXBody></imsx_POXEnvelopeRequest>`
  const oauth: [string, string][] = [
    ['oauth_body_hash', createHash('sha1').update(body).digest('base64')],
    ['oauth_consumer_key', key],
    ['oauth_nonce', randomBytes(12).toString('hex')],
    ['oauth_signature_method', 'HMAC-SHA1'],
    ['oauth_timestamp', String(Math.floor(Date.now() / 1000))],
    ['oauth_version', '1.0'],
  ]
  const base = `POST&${encode(url + path)}&${encode(oauth.map(([name, value]) => `${name}=${encode(value)}`).join('&'))}`
  const signature = createHmac('sha1', `${encode(secret)}&`)
    .update(base)
    .digest('base64')
  const authorization =
    'OAuth ' +
    ([...oauth, ['oauth_signature', signature]] as [string, string][])
      .map(([name, value]) => `${name}="${encode(value)}"`)
      .join(', ')
  return { method: 'POST', path, headers: { 'content-type': 'application/xml', authorization }, body }
}

const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
/** By their PEM. */
const keys = new Map<string, KeyObject>()

/** A token request with an assertion of its own, signed by node's own crypto. */
function tokenRequest({ url, path, clientId, scope, kid, pem }: Tokens, _n: number): Request {
  const now = Math.floor(Date.now() / 1000)
  const claims = {
    iss: clientId,
    sub: clientId,
    aud: `${url}${path}`,
    iat: now,
    exp: now + 3000,
    jti: randomBytes(12).toString('hex'),
  }
  const signed = `${part({ alg: 'RS256', kid, typ: 'JWT' })}.${part(claims)}`
  const privateKey = keys.get(pem) ?? createPrivateKey(pem)
  keys.set(pem, privateKey)
  const assertion = `${signed}.${sign('sha256', Buffer.from(signed), privateKey).toString('base64url')}`
  const body = new URLSearchParams({
    grant_type: 'client_credentials',
    client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
    client_assertion: assertion,
    scope,
  }).toString()
  return { method: 'POST', path, headers: { 'content-type': 'application/x-www-form-urlencoded' }, body }
}

/** The two requests of a launch of LTI 1.3, in turns: the initiation page, then the authorisation that its hints are for. */
function launch13({
  path,
  cookies,
  clientId,
  redirectUri,
}: Launches & { clientId: string; redirectUri: string }): Request[] {
  let n = 0
  return [
    {
      setupRequest: (request, context) => {
        const cookie = cookies[n++ % cookies.length]!
        Object.assign(context, { cookie })
        return { ...request, method: 'GET', path, headers: { cookie } }
      },
      onResponse: (_status, body, context) => {
        const hint = (name: string) => new RegExp(`name="${name}" value="([^"]*)"`).exec(body)?.[1] ?? ''
        const query = `scope=openid&response_type=id_token&response_mode=form_post&prompt=none&client_id=${clientId}&redirect_uri=${encodeURIComponent(redirectUri)}&login_hint=${hint('login_hint')}&lti_message_hint=${hint('lti_message_hint')}&state=s${n}&nonce=n${n}`
        Object.assign(context, { query })
      },
    },
    {
      setupRequest: (request, context) => {
        const { cookie, query } = context as { cookie: string; query: string }
        return { ...request, method: 'GET', path: `/lti/authorize?${query}`, headers: { cookie } }
      },
      onResponse: (status, body) => {
        if (status === 200 && !body.includes('name="id_token"')) wrongTokens++
      },
    },
  ]
}
let wrongTokens = 0

/** A score of LTI 1.3, each newer than all before. */
function agsRequest({ path, bearer, subjects }: Scores, n: number): Request {
  return {
    method: 'POST',
    path,
    headers: { 'content-type': 'application/vnd.ims.lis.v1.score+json', authorization: `Bearer ${bearer}` },
    body: JSON.stringify({
      userId: subjects[n % subjects.length],
      timestamp: new Date(startedAt + n).toISOString(),
      activityProgress: 'Completed',
      gradingProgress: 'FullyGraded',
      scoreGiven: (n % 1000) / 10,
      scoreMaximum: 100,
    }),
  }
}
// Later than what any load before has sent, and never ahead of the service's clock: ten milliseconds here for each that went by.
const startedAt = Date.UTC(1980, 0, 1) + (Date.now() - Date.UTC(2026, 0, 1)) * 10

/** @returns what makes the n-th request of a job; nothing where requests hang on answers */
function makerOf(job: LoadJob): ((n: number) => Request) | undefined {
  switch (job.kind) {
    case 'bare':
      return (n) => ({
        method: 'POST',
        path: '/',
        headers: { 'content-type': 'application/json' },
        body: `{"id":${n % 200},"score":0.645}`,
      })
    case 'outcomes':
    case 'refused':
      return (n) => outcomeRequest(job, n)
    case 'ags':
      return (n) => agsRequest(job, n)
    case 'token13':
      return (n) => tokenRequest(job, n)
    case 'launch':
      return (n) => ({ method: 'GET', path: job.path, headers: { cookie: job.cookies[n % job.cookies.length]! } })
    case 'launch13':
      return undefined
  }
}

process.once('message', (job: Load) => void work(job))
// Nobody waits for the answer any more.
process.on('disconnect', () => process.exit())

async function work(job: Load): Promise<void> {
  const make = makerOf(job)
  const ready = make ? Array.from({ length: job.prepare }, (_, i) => make(i)) : []
  // Whoever counts what the requests cost does not count the time in which they are made.
  const go = new Promise((resolve) => process.once('message', resolve))
  process.send?.('ready')
  await go
  let n = 0
  let wrong = 0
  const result = await autocannon({
    url: job.target,
    connections: job.connections,
    ...(job.rate && { overallRate: job.rate }),
    ...(job.amount ? { amount: job.amount } : { duration: job.seconds ?? 1 }),
    requests:
      job.kind === 'launch13'
        ? launch13(job)
        : [{ setupRequest: (request) => ({ ...request, ...(ready[n] ?? make!(n)), ...(n++, {}) }) }],
    verifyBody: (body) => {
      const good = job.expect === undefined || String(body).includes(job.expect)
      if (!good) wrong++
      return true
    },
  })
  process.send?.({
    perSecond: result.requests.average,
    total: result.requests.total,
    wrong: wrong + wrongTokens,
    non2xx: job.kind === 'refused' ? 0 : result.non2xx,
    errors: result.errors,
    p99: result.latency.p99,
    p50: result.latency.p50,
  } satisfies Loaded)
}
