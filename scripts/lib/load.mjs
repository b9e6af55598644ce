// The load of the benchmarks, in a process of its own: takes one job from its parent, answers with what came back.
import { createHash, createHmac, randomBytes } from 'node:crypto'
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

const MAKERS = {
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
    requests: [{ setupRequest: (request) => ({ ...request, ...(ready[n] ?? make(job, n)), ...(n++, {}) }) }],
    verifyBody: (body) => {
      const good = job.expect === undefined || String(body).includes(job.expect)
      if (!good) wrong++
      return true
    },
  })
  process.send({
    perSecond: result.requests.average,
    total: result.requests.total,
    wrong,
    non2xx: result.non2xx,
    errors: result.errors,
    p99: result.latency.p99,
  })
})
