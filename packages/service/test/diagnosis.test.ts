import OAuth from 'oauth-1.0a'
import { outcomeAuthorization, outcomeXml } from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  KEY,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { launch13, register13, startClient13, type Client13 } from './harness-13.js'

let academy: TestAcademy
let aino: Visitor
let tomas: Visitor
let service: string
let resultId: string
let form: Awaited<ReturnType<typeof openForm>>
let client: Client13
let clientId: string
let link13: string

beforeAll(async () => {
  academy = await startAcademy()
  service = `${academy.url}/lti/outcomes`
  await registerKnotwork(academy)
  await registerKnotwork(academy, {
    name: 'Plotting Table',
    consumerKey: 'plot',
    sharedSecret: 'parallel-rules',
    launchUrl: 'http://127.0.0.1:9/plot',
  })
  // The same key once more, under another secret, as happens when a tool is registered a second time.
  await registerKnotwork(academy, {
    name: 'Knotwork Spare',
    sharedSecret: 'spare-secret-9',
    secondReason: 'a spare pair',
  })
  const assignment = (await publishDrill(academy, 'knotwork-drills')).id
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  ;[aino, tomas] = [await academy.signIn('aino'), await academy.signIn('tomas')]
  form = await openForm(aino, assignment)
  resultId = form.fields['lis_result_sourcedid']!
  client = await startClient13(academy)
  clientId = (await register13(academy, client)).clientId!
  link13 = (await publishDrill(academy, 'bearing-book', { title: 'Bearings' })).id
})

let body = ''
const BODY = () => (body ||= outcomeXml('replaceResult', resultId, '0.5'))
const headerOf = (change: object = {}) =>
  outcomeAuthorization({ serviceUrl: service, key: KEY, secret: SECRET, ...change }, BODY())
async function post(authorization: string, sent = BODY()) {
  const response = await fetch(service, {
    method: 'POST',
    headers: { 'content-type': 'application/xml', authorization },
    body: sent,
  })
  const [entry] = (await academy.admin.client.call('listWire', { query: { kind: 'outcome', limit: 1 } })).items
  const shown = await academy.admin.client.call('showWireEntry', { params: { entry: entry!.id } })
  return { status: response.status, ...shown }
}

describe('a score that is refused', () => {
  it.each([
    ['secret_has_blanks', { secret: `${SECRET} ` }],
    ['key_and_secret_swapped', { secret: KEY }],
    ['secret_of_another_registration', { secret: 'parallel-rules' }],
    ['other_scheme', { serviceUrl: 'https:' }],
    ['trailing_slash', { serviceUrl: '/' }],
  ])('for %s says so, with the text for the vendor, and never a secret', async (code, change) => {
    const serviceUrl =
      'serviceUrl' in change
        ? change.serviceUrl === '/'
          ? `${service}/`
          : service.replace('http:', 'https:')
        : service
    const entry = await post(headerOf({ ...change, serviceUrl }))
    expect(entry.status).toBe(401)
    expect(entry.explained).toMatchObject({ certainty: 'proven', causes: [{ code }] })
    expect(entry.explained!.letters.en).toContain(`wire entry ${entry.id}`)
    for (const secret of [SECRET, 'parallel-rules']) expect(JSON.stringify(entry)).not.toContain(secret)
  })

  it('for a secret that nobody knows guesses nothing', async () => {
    const { explained } = await post(headerOf({ secret: 'somebody-else' }))
    expect(explained).toMatchObject({ certainty: 'none', causes: [] })
    expect(explained!.ruledOut.length).toBeGreaterThan(10)
  })

  it('for a body changed on its way says how', async () => {
    expect((await post(headerOf(), BODY().replaceAll('\n', '\r\n').trim() + ' \n ')).explained).toMatchObject({
      certainty: 'proven',
      causes: [{ code: 'body_line_ends' }],
    })
  })

  it('for a clock that is off says by how much, and for one that waited that the others did not', async () => {
    const late = async (ms: number) => {
      const authorization = headerOf()
      academy.clock.offsetMs = ms
      return (await post(authorization)).explained!.causes[0]!
    }
    // The messages of before are right, and within the hour.
    const fresh = await Promise.all([1, 2, 3, 4, 5, 6, 7, 8, 9].map(() => post(headerOf())))
    expect(fresh.every(({ status }) => status === 200)).toBe(true)
    expect(await late(1_200_000)).toMatchObject({ code: 'held_back', sentence: expect.stringMatching(/120\d seconds behind.*most likely this one waited/) as string }) // oxfmt-ignore
    // Two hours later nothing of that hour is known but what comes now.
    const off = () => late(7_200_000)
    expect(await off()).toMatchObject({ code: 'clock_off', sentence: expect.stringMatching(/or the message was held back/) as string }) // oxfmt-ignore
    await off()
    await off()
    const seen = await off()
    expect(seen.sentence).toMatch(/720\d seconds behind our clock: the clock that made it is off\.$/)
    expect(seen.evidence).toContainEqual(['may be', '2 hours behind, if local time was taken for UTC'])
    academy.clock.offsetMs = 0
  })

  it('for a nonce that came before names the entry it came in', async () => {
    const authorization = headerOf()
    const first = await post(authorization)
    expect(first).toMatchObject({ status: 200, explained: null })
    const { explained } = await post(authorization)
    expect(explained).toMatchObject({ causes: [{ code: 'nonce_seen' }] })
    expect(JSON.stringify(explained)).toContain(`wire entry ${first.id}`)
  })
})

const explain = (text: string, more: object = {}, who: Visitor = tomas) =>
  who.client.call('explainMessage', { body: { text, ...more } })
const encoded = (fields: Record<string, string>) => String(new URLSearchParams(fields))

/** The base string of a form, by a general library. */
function baseOf({ action, fields }: typeof form): string {
  const { oauth_signature: _, ...data } = fields
  const library = new OAuth({
    consumer: { key: KEY, secret: '' },
    signature_method: 'HMAC-SHA1',
    hash_function: (base) => base,
  })
  return library.getBaseString({ url: action, method: 'POST', data: {} }, data as never)
}

describe('a message from elsewhere', () => {
  it.each([
    ['plus_for_blank', (base: string) => base.replaceAll('%2520', '%2B')],
    ['other_method', (base: string) => base.replace('POST', 'GET')],
    ['escapes_in_small_letters', (base: string) => base.replace(/%25[0-9A-F]{2}/g, (one) => one.toLowerCase())],
  ])('as a base string that was made by %s says so, though it reads alike', async (code, spoil) => {
    const found = await explain(spoil(baseOf(form)))
    expect(found.what).toMatch(/differs from that of what was sent/)
    expect(found.diagnosis).toMatchObject({ certainty: 'proven', causes: [{ code }] })
  })

  it('that is old when it is pasted is not said to be late', async () => {
    academy.clock.offsetMs = 3_720_000
    const found = await explain(encoded(form.fields), { address: form.action })
    academy.clock.offsetMs = 0
    expect(found).toMatchObject({ diagnosis: null, what: expect.stringContaining('signed rightly') as string })
  })

  it('that is our own launch is known again, and signed rightly', async () => {
    const found = await explain(encoded(form.fields), { address: form.action })
    expect(found).toMatchObject({ kind: 'form', tool: { name: 'Knotwork Drills' }, differences: [], diagnosis: null })
    expect(found.what).toContain('signed rightly')
    expect(found.entry).not.toBeNull()
    expect(JSON.stringify(found)).not.toContain(form.fields['oauth_signature'])
  })

  it('of which a value was changed on its way: names the value, theirs and ours', async () => {
    const found = await explain(encoded({ ...form.fields, resource_link_title: 'Another' }), { address: form.action })
    expect(found.differences).toEqual([
      { part: 'resource_link_title', theirs: 'Another', ours: form.fields['resource_link_title'] },
    ])
    expect(found.what).toContain('not that of Knotwork Drills')
  })

  it('as a base string out of the tool’s log is held against what was sent', async () => {
    const parameters = Object.entries(form.fields)
      .filter(([name]) => name !== 'oauth_signature')
      .map(([name, value]) => `${encodeURIComponent(name)}=${encodeURIComponent(value)}`)
      .sort()
      .join('&')
    const base = ['POST', form.action.replace('http:', 'https:'), parameters].map(encodeURIComponent).join('&')
    const found = await explain(base)
    const at = found.differences[1]!
    expect(found.differences).toMatchObject([{ part: 'address', ours: form.action }, {}])
    expect(at.part).toBe('base string, at character 10')
    expect([at.theirs.slice(0, 12), at.ours.slice(0, 12)]).toEqual(['POST&https%3', 'POST&http%3A'])
    expect(found.what).toContain('first at character 10')
    expect(found.diagnosis).toMatchObject({ certainty: 'proven', causes: [{ code: 'other_scheme' }] })
    const same = await explain(baseOf(form))
    expect(same).toMatchObject({ differences: [], diagnosis: null })
    expect(same.what).toContain('exactly that of what was sent')
    expect((await explain(base.slice(0, 40))).kind).toBe('unreadable')
  })

  it('as an id_token of ours is verified by our keys, and known again', async () => {
    const { fields } = await launch13(aino, link13, client)
    const found = await explain(`id_token=${encodeURIComponent(fields['id_token']!)}&state=x`)
    expect(found).toMatchObject({
      kind: 'token',
      tool: { name: 'Bearing Book' },
      diagnosis: { certainty: 'none', causes: [] },
    })
    expect(found.entry).not.toBeNull()
    const [head, body, signature] = fields['id_token']!.split('.') as [string, string, string]
    const turned = signature.startsWith('A') ? `B${signature.slice(1)}` : `A${signature.slice(1)}`
    expect((await explain(`${head}.${body}.${turned}`)).diagnosis).toMatchObject({ causes: [{ code: 'signature' }] })
  })

  it('as a client assertion for another address says how the address differs', async () => {
    const assertion = await client.assertion(clientId, { aud: `${academy.url}/lti/token/` })
    expect((await explain(assertion)).diagnosis!.causes.map((one) => one.code)).toContain('audience')
  })

  it('in a HAR file, a curl command and the source of a page is told what it was taken for, and is known again', async () => {
    const text = encoded(form.fields)
    const har = JSON.stringify({ log: { entries: [{ request: { method: 'POST', url: form.action, headers: [], postData: { mimeType: 'application/x-www-form-urlencoded', text } } }] } }) // oxfmt-ignore
    const page = `<form action="${form.action}" method="post">${Object.entries(form.fields).map(([name, value]) => `<input name="${name}" value="${value.replaceAll('&', '&amp;').replaceAll('"', '&quot;')}">`).join('')}</form>` // oxfmt-ignore
    for (const [source, takenFor] of [
      [har, 'a HAR file, request 1 of 1'],
      [`curl '${form.action}' --data-raw '${text.replaceAll("'", '%27')}'`, 'a curl command'],
      [page, 'a form in HTML'],
    ] as const) {
      const found = await explain(source)
      expect(found).toMatchObject({ kind: 'form', takenFor, differences: [], diagnosis: null, also: [] })
      expect(found.what, takenFor).toContain('signed rightly')
      expect(found.entry).not.toBeNull()
    }
  })

  it('that is the header of a score is held against our own address, not the tool’s', async () => {
    expect((await explain(`12:00 sent ${headerOf()} got 401`)).what).toContain('signed rightly')
    const wrong = await explain(headerOf({ serviceUrl: `${service}/` }))
    expect(wrong.diagnosis).toMatchObject({ certainty: 'proven', causes: [{ code: 'trailing_slash' }] })
  })

  it('as the base string of a score that was refused is held against what came', async () => {
    // One whose signature is masked in the middle of an escape.
    let authorization = ''
    while (!/oauth_signature="[^"]{4}(?:%|[^"%]%)/.test(authorization)) authorization = headerOf({ serviceUrl: `${service}/` }) // oxfmt-ignore
    await post(authorization)
    const [nonce, timestamp, hash] = ['nonce', 'timestamp', 'body_hash'].map((name) => new RegExp(`oauth_${name}="([^"]*)"`).exec(authorization)![1]!) // oxfmt-ignore
    const parameters = `oauth_body_hash=${hash}&oauth_consumer_key=${KEY}&oauth_nonce=${nonce}&oauth_signature_method=HMAC-SHA1&oauth_timestamp=${timestamp}&oauth_version=1.0` // oxfmt-ignore
    const found = await explain(['POST', `${service}/`, parameters].map(encodeURIComponent).join('&'))
    expect(found.what).toMatch(/differs from that of what came, first at character/)
    expect(found.diagnosis).toMatchObject({ certainty: 'proven', causes: [{ code: 'trailing_slash' }] })
    const same = await explain(['POST', service, parameters].map(encodeURIComponent).join('&'))
    expect(same.what).toMatch(/exactly that of what came/)
  })

  it('beside others in one text is told with them, each by itself', async () => {
    const assertion = await client.assertion(clientId, { aud: 'https://elsewhere.example' })
    const found = await explain(`Hello,\n\nyou said ${assertion}\n\nand then\n\n${baseOf(form)}\n\nThanks`)
    expect([found, ...found.also].map(({ kind }) => kind)).toEqual(['token', 'base_string'])
    expect(found.diagnosis!.causes.map(({ code }) => code)).toEqual(['audience'])
    expect(found.also[0]!.what).toContain('exactly that of what was sent')
  })

  it('as claims without a token is judged by what it says, and not by a key', async () => {
    const { claims } = JSON.parse(JSON.stringify({ claims: { iss: `${academy.url}/`, aud: clientId, nonce: 'n', exp: 4e9 } })) as { claims: object } // oxfmt-ignore
    const codes = (await explain(JSON.stringify(claims))).diagnosis!.causes.map(({ code }) => code)
    expect(codes).toContain('issuer')
    expect(codes.filter((code) => /key|algorithm|signature|form/.test(code))).toEqual([])
  })

  it('whose timestamp is in milliseconds is told so, signed rightly as it is', async () => {
    const inMilliseconds = () => outcomeAuthorization({ serviceUrl: service, key: KEY, secret: SECRET }, BODY(), { ageSeconds: Math.floor(Date.now() / 1000) - Date.now() }) // oxfmt-ignore
    const found = await explain(inMilliseconds())
    expect(found.diagnosis).toMatchObject({ certainty: 'proven', causes: [{ code: 'milliseconds' }] })
    const refused = await post(inMilliseconds())
    expect(refused.explained).toMatchObject({ certainty: 'proven', causes: [{ code: 'milliseconds' }] })
  })

  it('of far more characters than any message has, or of none, is answered in words', async () => {
    expect(await explain('x'.repeat(350_000))).toMatchObject({
      kind: 'unreadable',
      what: expect.stringContaining('300000 are read') as string,
    })
    expect(await codeOf(explain('x'.repeat(900_000)))).toBe('request.too_large')
    expect((await explain(' ')).what).toBe('Nothing was pasted.')
  })

  it('is explained to those who teach only, and by tools they may know of', async () => {
    expect(await codeOf(explain('x', {}, aino))).toBe('access.denied')
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await academy.admin.client.call('registerTool', {
      body: {
        name: 'Own of NAV',
        consumerKey: 'nav-own',
        sharedSecret: 'leadsman-12-fathom',
        launchUrl: 'http://127.0.0.1:9/x',
        course: 'NAV-120',
        disclosure: 'name',
      },
    })
    const found = await explain(encoded({ ...form.fields, oauth_consumer_key: 'nav-own' }))
    expect(found.tool).toBeNull()
    // Nor does what is kept with an entry of one course name a tool of another.
    const { explained } = await post(headerOf({ secret: 'leadsman-12-fathom' }))
    expect(explained).toMatchObject({ certainty: 'none', causes: [] })
  })

  it('is not explained a hundred times a minute, so that nobody tries secrets by it; others go on', async () => {
    const refused = await Promise.all(Array.from({ length: 90 }, () => codeOf(explain(' '))))
    expect(refused.filter((code) => code === 'request.too_many').length).toBeGreaterThanOrEqual(30)
    expect(await codeOf(explain(' ', {}, academy.admin))).toBeUndefined()
  })
})

describe('a flood of refused scores', () => {
  it('is refused to the last, but only the first of a minute are looked into', async () => {
    const authorization = headerOf({ secret: 'somebody-else' })
    const statuses = await Promise.all(
      Array.from({ length: 60 }, () =>
        fetch(service, {
          method: 'POST',
          headers: { 'content-type': 'application/xml', authorization },
          body: BODY(),
        }).then((one) => one.status),
      ),
    )
    expect(new Set(statuses)).toEqual(new Set([401]))
    const [{ kept }] = (await academy.query<{ kept: number }>(`select count(*)::int as kept from diagnosis`)) as [
      { kept: number },
    ]
    expect(kept).toBeLessThan(60)
  })
})
