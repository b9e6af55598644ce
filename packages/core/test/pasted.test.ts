import { MOST_MESSAGES, readAllPasted, readPasted, type Pasted } from '@bathyscribe/core/diagnosis'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const FIELDS: [string, string][] = [
  ['oauth_consumer_key', 'skerrow-knots'],
  ['oauth_nonce', 'n-4711'],
  ['oauth_signature', 'Yz+8/Qk1a2='],
  ['oauth_timestamp', '1790000000'],
  ['lti_message_type', 'basic-lti-launch-request'],
  ['resource_link_title', 'Sheet bend'],
  ['custom_note', 'it’s 100 % "new", a=b&c'],
]
const ADDRESS = 'https://tools.skerrow.example/launch'
const form = String(new URLSearchParams(FIELDS))
const header = `OAuth ${FIELDS.slice(0, 4).map(([name, value]) => `${name}="${encodeURIComponent(value)}"`).join(', ')}` // oxfmt-ignore
const attribute = (text: string) => text.replaceAll('&', '&amp;').replaceAll('"', '&quot;')
const html = `<html><body>\n\n<form action="${ADDRESS}" method="post">${FIELDS.map(([name, value]) => `\n\n<input type="hidden" name="${name}" value="${attribute(value)}">`).join('')}</form>\n</body></html>` // oxfmt-ignore
const shell = (text: string) => `'${text.replaceAll("'", "'\\''")}'`
const python = (text: string) => `'${text.replaceAll('\\', '\\\\').replaceAll("'", "\\'")}'`
const har = (requests: object[]) => JSON.stringify({ log: { version: '1.2', entries: requests.map((request) => ({ startedDateTime: '2026-11-23T12:00:00Z', request, response: { content: { text: 'x' } } })) } }) // oxfmt-ignore
const posted = { method: 'POST', url: ADDRESS, headers: [], postData: { mimeType: 'application/x-www-form-urlencoded', text: form } } // oxfmt-ignore
const token = `${Buffer.from('{"alg":"RS256","kid":"one"}').toString('base64url')}.${Buffer.from('{"iss":"https://us.example","nonce":"n"}').toString('base64url')}.${'c2ln'.repeat(10)}` // oxfmt-ignore
const base = 'POST&https%3A%2F%2Ft.example%2Flaunch&a%3D1%26oauth_nonce%3Dabc%26title%3DSheet%2520bend'

const parametersOf = (one: Pasted) => (one.kind === 'form' ? Object.fromEntries(one.parameters) : one)

describe('one form post', () => {
  it.each<[string, string, RegExp, { address?: string; without?: string[] }?]>([
    ['encoded', form, /^an encoded form$/],
    ['in HTML, with empty lines', html, /form in HTML/, { address: ADDRESS }],
    ['as HTML in the answer of a server', `HTTP/1.1 200 OK\r\ncontent-type: text/html\r\n\r\n${html}`, /form in HTML/, { address: ADDRESS }], // oxfmt-ignore
    ['a line each', FIELDS.map(([name, value]) => `${name}: ${value}`).join('\n'), /one a line/],
    ['a line each, with tabs, as a browser shows it', FIELDS.map(([name, value]) => `${name}\t${value}`).join('\r\n'), /one a line/], // oxfmt-ignore
    ['a line each, with empty lines', FIELDS.map(([name, value]) => `${name}=${value}`).join('\n\n'), /one a line/],
    ['in JSON', JSON.stringify(Object.fromEntries(FIELDS)), /JSON/],
    ['in JSON, lists', JSON.stringify(Object.fromEntries(FIELDS.map(([name, value]) => [name, [value]])), null, 2), /JSON/], // oxfmt-ignore
    ['in JSON, as a logged request', JSON.stringify({ path: '/launch', body: Object.fromEntries(FIELDS) }), /JSON/],
    ['in JSON in a line of a log', `12:00 DEBUG got ${JSON.stringify(Object.fromEntries(FIELDS))} done`, /a program prints/], // oxfmt-ignore
    ['by Ruby', `Parameters: {${FIELDS.map(([name, value]) => `${JSON.stringify(name)}=>${JSON.stringify(value)}`).join(', ')}}`, /a program prints/], // oxfmt-ignore
    ['by Python', `{${FIELDS.map(([name, value]) => `${python(name)}: ${python(value)}`).join(', ')}}`, /a program prints/], // oxfmt-ignore
    ['by Python, lists', `INFO {${FIELDS.map(([name, value]) => `${python(name)}: [u${python(value)}]`).join(', ')}}`, /a program prints/], // oxfmt-ignore
    ['by PHP', `Array\n(\n${FIELDS.map(([name, value]) => `    [${name}] => ${value}`).join('\n')}\n)\n`, /a program prints/, { without: ['custom_note'] }], // oxfmt-ignore
    ['by PHP, with types', `array(7) {\n${FIELDS.map(([name, value]) => `  ["${name}"]=>\n  string(${value.length}) "${value}"`).join('\n')}\n}`, /a program prints/, { without: ['custom_note'] }], // oxfmt-ignore
    ['by Java', `params={${FIELDS.slice(0, 6).map(([name, value]) => `${name}=${value}`).join(', ')}}`, /a program prints/, { without: ['custom_note'] }], // oxfmt-ignore
    [
      'in an address in a log',
      `10.0.0.7 - - [23/Nov/2026] "GET /launch?${form} HTTP/1.1" 401 12`,
      /encoded form in a text/,
    ],
    ['in a request as it crossed the wire', `POST /launch HTTP/1.1\r\nHost: t.example\r\nContent-Type: application/x-www-form-urlencoded\r\n\r\n${form}`, /encoded form in a text/], // oxfmt-ignore
    ['as a curl command', `curl ${shell(ADDRESS)} -H 'content-type: application/x-www-form-urlencoded' --data-raw ${shell(form)} --compressed`, /curl/, { address: ADDRESS }], // oxfmt-ignore
    ['as a curl command over lines', `$ curl --location --request POST "${ADDRESS}" \\\n${FIELDS.map(([name, value]) => `  --data-urlencode ${shell(`${name}=${value}`)}`).join(' \\\n')}`, /curl/, { address: ADDRESS }], // oxfmt-ignore
    ['as a curl command with $-quotes', `curl '${ADDRESS}' --data $'${form.replaceAll("'", "\\'")}'`, /curl/, { address: ADDRESS }], // oxfmt-ignore
    ['as a curl command for Windows', `curl ^"${ADDRESS}^" ^\r\n  -X ^"POST^" ^\r\n  --data-raw ^"${form.replaceAll('&', '^&').replaceAll('%', '^%')}^"`, /curl/, { address: ADDRESS }], // oxfmt-ignore
    ['in a HAR file', har([{ method: 'GET', url: 'https://x.example/', headers: [] }, posted]), /HAR file, request 2 of 2/, { address: ADDRESS }], // oxfmt-ignore
    ['in a HAR file, as params', har([{ ...posted, postData: { mimeType: 'multipart/form-data', params: FIELDS.map(([name, value]) => ({ name, value })) } }]), /HAR file/, { address: ADDRESS }], // oxfmt-ignore
    ['typed from a picture', 'oauth consumer key:  skerrow-knots\nOAuth_nonce n-4711\noauth signature Yz+8/Qk1 a2=\nOAUTH TIMESTAMP = 1790000000\nlti message type: basic-lti-launch-request\nresource link title “Sheet bend”', /typed from a picture/, { without: ['custom_note'] }], // oxfmt-ignore
  ])('is read %s', (_, text, takenFor, { address, without = [] } = {}) => {
    const all = readAllPasted(text)
    expect(all).toHaveLength(1)
    const [one] = all as [Pasted]
    expect(one).toMatchObject({ kind: 'form', address: address ?? null, takenFor: expect.stringMatching(takenFor) as string }) // oxfmt-ignore
    const expected = Object.fromEntries(FIELDS.filter(([name]) => !without.includes(name)))
    expect(parametersOf(one)).toMatchObject(expected)
  })

  it.each([
    ['bare', header],
    ['with its name', `Authorization: ${header}`],
    ['folded', header.replaceAll(', ', ',\n    ')],
    ['in a line of a log', `12:00:01 WARN refused [${header}] from 10.0.0.7`],
    ['in a curl command', `curl -X POST ${ADDRESS} -H "Authorization: ${header.replaceAll('"', '\\"')}" -d '<xml/>'`],
    ['in a HAR file', har([{ method: 'POST', url: ADDRESS, headers: [{ name: 'authorization', value: header }] }])],
  ])('whose fields are in a header is read: %s', (_, text) => {
    expect(parametersOf(readPasted(text))).toMatchObject(Object.fromEntries(FIELDS.slice(0, 4)))
  })

  it('says by which method it was sent', () => {
    const method = (text: string) => readPasted(text)
    expect(method(`curl '${ADDRESS}?${form}'`)).toMatchObject({ method: 'GET', address: `${ADDRESS}?${form}` })
    expect(method(har([{ ...posted, method: 'put' }]))).toMatchObject({ method: 'PUT' })
    expect(method(html.replace('"post"', '"get"'))).toMatchObject({ method: 'GET' })
  })
})

describe('one token', () => {
  it.each([
    ['in a sentence', `We got ${token}, which your platform sent us. Why?`],
    ['in quotes', `id_token: "${token}"`],
    ['over lines', token.replace(/.{40}/g, '$&\n')],
    ['in a header', `authorization: Bearer ${token}`],
    ['in JSON', `{"id_token":"${token}","state":"x"}`],
    ['in HTML', `<form method=post action="https://t.example/"><input name=id_token value="${token}"></form>`],
    ['in a curl command', `curl -H 'Authorization: Bearer ${token}' https://us.example/api`],
    ['in a HAR file', har([{ ...posted, postData: { mimeType: 'application/x-www-form-urlencoded', text: `id_token=${token}&state=x` } }])], // oxfmt-ignore
    [
      'in the address of a request',
      har([{ method: 'GET', url: `https://t.example/launch?id_token=${token}`, headers: [] }]),
    ],
    ['in an address', `https://t.example/launch?state=1&id_token=${token}`],
    ['twice', `${token} and again ${token}`],
  ])('is read %s', (_, text) => {
    expect(readAllPasted(text)).toMatchObject([{ kind: 'token', claims: { nonce: 'n' }, token }])
  })
  it('is read by its claims alone, decoded', () => {
    const claims = { iss: 'https://us.example', aud: 'c', nonce: 'n' }
    expect(readAllPasted(JSON.stringify(claims, null, 2))).toMatchObject([{ kind: 'token', claims, token: '' }])
  })
})

describe('a base string', () => {
  it.each([
    ['in a line of a log', `12:00 base string: ${base} signature: abc`],
    ['in quotes', `"${base}"`],
    ['in JSON', JSON.stringify({ base })],
  ])('is read %s', (_, text) => {
    expect(readAllPasted(text)).toMatchObject([{ kind: 'base_string', text: base }])
  })
})

describe('several messages in one text', () => {
  it('are told in their order, each as what it is', () => {
    const text = `Hello,\n\nthis is what we computed:\n${base}\n\nand this came:\n\n${FIELDS.map(([name, value]) => `${name}: ${value}`).join('\n')}\n\nThe other one: ${token}` // oxfmt-ignore
    const kinds = readAllPasted(text).map(({ kind }) => kind)
    expect(kinds.toSorted()).toEqual(['base_string', 'form', 'token'])
  })
  it('of one kind are told apart by line, by paragraph, by form and by command', () => {
    const other = form.replace('n-4711', 'n-4712')
    const nonces = (text: string) => readAllPasted(text).map((one) => (parametersOf(one) as Record<string, string>)['oauth_nonce']) // oxfmt-ignore
    const both = ['n-4711', 'n-4712']
    expect(nonces(`GET /?${form} 401\nGET /?${other} 401`)).toEqual(both)
    expect(nonces(`${html}${html.replace('n-4711', 'n-4712')}`)).toEqual(both)
    expect(nonces(`curl ${ADDRESS} -d '${form.replaceAll("'", '%27')}'\ncurl ${ADDRESS} -d '${other.replaceAll("'", '%27')}'`)).toEqual(both) // oxfmt-ignore
    expect(nonces(har([posted, { ...posted, postData: { ...posted.postData, text: other } }]))).toEqual(both)
    const lines = FIELDS.map(([name, value]) => `${name}: ${value}`).join('\n')
    expect(nonces(`${lines}\n\n${lines.replace('n-4711', 'n-4712')}`)).toEqual(both)
  })
  it('are told up to a number', () => {
    const many = Array.from({ length: 9 }, (_, n) => base.replace('abc', `abc${n}`)).join('\n')
    expect(readAllPasted(many)).toHaveLength(MOST_MESSAGES)
  })
})

describe('what is no message', () => {
  it.each([
    [
      'a HAR file without one',
      har([{ method: 'GET', url: 'https://x.example/', headers: [] }]),
      /None of the 1 requests/,
    ],
    ['a curl command without one', 'curl https://x.example/', /curl command sends nothing of LTI/],
    ['JSON', '{"a":[1,{"b":null}]}', /neither a token/],
    ['a header of another form', 'OAuth is what we use', /not of its form/],
    ['too much', 'x'.repeat(300_001), /300001 characters/],
  ])('is told as that: %s', (_, text, why) => {
    expect(readAllPasted(text)).toMatchObject([{ kind: 'unreadable', why: expect.stringMatching(why) as string }])
  })

  it('of any text at all is read without a fault', () => {
    const piece = fc.oneof(fc.string({ unit: 'binary', maxLength: 30 }), fc.constantFrom('curl ', "'", '"', '\\', '\n', '=>', '{', '"log":{"entries":[', 'oauth_nonce', '=', '&', 'eyJ', 'OAuth ', '<form', '<input name=', 'POST&https%3A', '^"', "$'", '[', ']')) // oxfmt-ignore
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        for (const one of readAllPasted(pieces.join(''))) if (one.kind === 'unreadable') expect(one.why).toMatch(/[.]$/)
      }),
      { numRuns: 500 },
    )
  })
})
