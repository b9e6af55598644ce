// The load of the benchmarks, in a process of its own: takes one job from its parent, answers with what came back.
import { createHash, createHmac, createPrivateKey, randomBytes, sign } from 'node:crypto'
import autocannon from 'autocannon'

const encode = (text) =>
  encodeURIComponent(text).replace(/[!'()*]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase())

/** Signs one replaceResult with node's own crypto, so that the load costs as little as it can. */
function outcomeRequest({ url, path, key, secret, resultIds }, n) {
  const score = ((n % 1000) / 1000).toFixed(3)
  const body = `<?xml version="1.0" encoding="UTF-8"?><imsx_POXEnvelopeRequest xmlns="http://www.imsglobal.org/services/ltiv1p1/xsd/imsoms_v1p0"><imsx_POXHeader><imsx_POXRequestHeaderInfo><imsx_version>V1.0</imsx_version><imsx_messageIdentifier>m${n}</imsx_messageIdentifier></imsx_POXRequestHeaderInfo></imsx_POXHeader><imsx_POXBody><replaceResultRequest><resultRecord><sourcedGUID><sourcedId>${resultIds[n % resultIds.length]}</sourcedId></sourcedGUID><result><resultScore><language>en</language><textString>${score}</textString></resultScore></result></resultRecord></replaceResultRequest></imsx_POXBody></imsx_POXEnvelopeRequest>`
  const oauth = [
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
    [...oauth, ['oauth_signature', signature]].map(([name, value]) => `${name}="${encode(value)}"`).join(', ')
  return { method: 'POST', path, headers: { 'content-type': 'application/xml', authorization }, body }
}

const part = (value) => Buffer.from(typeof value === 'string' ? value : JSON.stringify(value)).toString('base64url')

/** A token request with an assertion of its own, signed by node's own crypto. */
function tokenRequest({ url, path, clientId, scope, kid, pem }) {
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
  keyOf[pem] ??= createPrivateKey(pem)
  const assertion = `${signed}.${sign('sha256', Buffer.from(signed), keyOf[pem]).toString('base64url')}`
  const body = new URLSearchParams({
    grant_type: 'client_credentials',
    client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
    client_assertion: assertion,
    scope,
  }).toString()
  return { method: 'POST', path, headers: { 'content-type': 'application/x-www-form-urlencoded' }, body }
}
const keyOf = {}

/** The two requests of a launch of LTI 1.3, in turns: the initiation page, then the authorisation that its hints are for. */
function launch13({ path, cookies, clientId, redirectUri }) {
  let n = 0
  return [
    {
      setupRequest: (request, context) => {
        context.cookie = cookies[n++ % cookies.length]
        return { ...request, method: 'GET', path, headers: { cookie: context.cookie } }
      },
      onResponse: (status, body, context) => {
        const hint = (name) => new RegExp(`name="${name}" value="([^"]*)"`).exec(body)?.[1] ?? ''
        context.query = `scope=openid&response_type=id_token&response_mode=form_post&prompt=none&client_id=${clientId}&redirect_uri=${encodeURIComponent(redirectUri)}&login_hint=${hint('login_hint')}&lti_message_hint=${hint('lti_message_hint')}&state=s${n}&nonce=n${n}`
      },
    },
    {
      setupRequest: (request, context) => ({
        ...request,
        method: 'GET',
        path: `/lti/authorize?${context.query}`,
        headers: { cookie: context.cookie },
      }),
      onResponse: (status, body) => {
        if (status === 200 && !body.includes('name="id_token"')) wrongTokens++
      },
    },
  ]
}
let wrongTokens = 0

/** A score of LTI 1.3, each newer than all before. */
function agsRequest({ path, bearer, subjects }, n) {
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

const MAKERS = {
  ags: agsRequest,
  token13: tokenRequest,
  bare: (_, n) => ({
    method: 'POST',
    path: '/',
    headers: { 'content-type': 'application/json' },
    body: `{"id":${n % 200},"score":0.645}`,
  }),
  outcomes: outcomeRequest,
  launch: ({ path, cookies }, n) => ({ method: 'GET', path, headers: { cookie: cookies[n % cookies.length] } }),
}

process.on('message', async (job) => {
  const make = MAKERS[job.kind]
  // Made before the clock starts: what is measured is the service, not the signing of the load.
  const ready = Array.from({ length: job.prepare }, (_, i) => make(job, i))
  let n = 0
  let wrong = 0
  const result = await autocannon({
    url: job.target,
    connections: job.connections,
    ...(job.amount ? { amount: job.amount } : { duration: job.seconds }),
    requests:
      job.kind === 'launch13'
        ? launch13(job)
        : [{ setupRequest: (request) => ({ ...request, ...(ready[n] ?? make(job, n)), ...(n++, {}) }) }],
    verifyBody: (body) => {
      const good = job.expect === undefined || String(body).includes(job.expect)
      if (!good) wrong++
      return true
    },
  })
  process.send({
    perSecond: result.requests.average,
    total: result.requests.total,
    wrong: wrong + wrongTokens,
    non2xx: result.non2xx,
    errors: result.errors,
    p99: result.latency.p99,
    p50: result.latency.p50,
  })
})
