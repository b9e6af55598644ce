import { describe, expect, it } from 'vitest'
import * as checks from '../src/checks/index.js'
import * as content from '../src/content/index.js'
import * as diagnosis from '../src/diagnosis/index.js'
import * as dates from '../src/dates/index.js'
import * as formats from '../src/formats/index.js'
import * as intake from '../src/intake/index.js'
import * as links from '../src/links/index.js'
import * as lti1 from '../src/lti1/index.js'
import * as lti13 from '../src/lti13/index.js'
import * as oauth1 from '../src/oauth1/index.js'
import * as oneroster from '../src/oneroster/index.js'
import * as reconciliation from '../src/reconciliation/index.js'
import * as richText from '../src/rich-text/index.js'
import * as scores from '../src/scores/index.js'
import * as text from '../src/text/index.js'
import * as xml from '../src/xml/index.js'

const MODULES = { checks, content, dates, diagnosis, formats, intake, links, lti1, lti13, oauth1, oneroster, reconciliation, richText, scores, text, xml } // oxfmt-ignore
const NOW = new Date('2026-11-02T10:00:00Z')
const utf8 = new TextEncoder()
const json = (value: string) => ({ a: value, label: value, keys: [{ kid: value, n: value }], scoreGiven: value })
const author = { username: 'aino', email: 'aino@skerrow.example', fullName: 'Aino', ids: ['aino'] } as never

const signed = (given: string) => ({
  request: { method: 'POST', url: 'https://skerrow.example/a?b=c', parameters: [['a', given], [given.slice(0, 900), 'b']] as [string, string][] },
  signature: 'Lve95gjOVATpfV8EL5X4nxwjKHE=',
  signatureMethod: 'HMAC-SHA1' as const,
  held: { label: 'x', consumerKey: 'k', sharedSecret: 's' },
  previous: [],
  others: [],
  hosts: [],
}) // oxfmt-ignore

/** Every exported reader of foreign text, each given a text in the way that strangers can. */
const READERS: Record<string, (given: string) => unknown> = {
  readReturn: (given) => checks.readReturn(`https://skerrow.example/?lti_msg=${encodeURIComponent(given)}`),
  remarksOfPage: (body) => checks.remarksOfPage({ status: 200, body }),
  launchRefusal: (body) => checks.launchRefusal({ status: 500, url: '', body, returned: null, failure: null }),
  accountDifference: (page) => checks.accountDifference(page, `${page}!`, 'Aino'),
  plainLine: (given) => content.plainLine(given, 200),
  readMoment: (given) => content.readMoment(given),
  addressDifference: (given) => diagnosis.addressDifference(given, 'https://skerrow.example/a'),
  diagnoseBodyHash: (body) => diagnosis.diagnoseBodyHash({ body: utf8.encode(body), sent: 'x', signatureMethod: 'HMAC-SHA1' }),
  diagnoseSignature: (given) => diagnosis.diagnoseSignature(signed(given)),
  diagnoseBaseString: (given) => diagnosis.diagnoseBaseString({ ...signed(given), theirs: given }),
  kindOfToken: (given) => diagnosis.kindOfToken(json(given) as never),
  nearestAddress: (given) => diagnosis.nearestAddress(given, ['https://skerrow.example/a']),
  earlierAddress: (words) => diagnosis.earlierAddress(words, { now: 'https://b.example', earlier: ['https://a.example'] }),
  objectionIn: (words) => diagnosis.objectionIn(words, { as: 'instructor', values: {}, sentAt: NOW } as never),
  readObjection: diagnosis.readObjection,
  readPasted: diagnosis.readPasted,
  readAllPasted: diagnosis.readAllPasted,
  identifierDifference: (given) => diagnosis.identifierDifference(given, `${given}x`),
  tokenParts: (given) => diagnosis.tokenParts(`${given}.${given}.x`),
  diagnoseConsumerKey: (given) => diagnosis.diagnoseConsumerKey({ given, expected: null, others: [{ label: 'x', consumerKey: 'key-of-x' }] }),
  isFormula: formats.isFormula,
  readAssignmentTable: (given) => formats.readAssignmentTable(given, 'Europe/Oslo'),
  readMomentCell: (given) => dates.readMomentCell(given, 'Europe/Oslo', true),
  readTable: (given) => formats.readTable(given, (head) => head),
  readFetched: (body) => intake.readFetched('https://tool.example/config.xml', body, NOW),
  readHandover: (given) => intake.readHandover(given, NOW),
  readJson: intake.readJson,
  belongsTo: (given) => links.belongsTo(given, ['https://tool.example/launch']),
  checkLaunchAddress: links.checkLaunchAddress,
  cookiesLostInFrame: (line) => links.cookiesLostInFrame([line]),
  framingRefusal: (csp) => links.framingRefusal({ 'content-security-policy': csp, 'x-frame-options': csp }, 'https://tool.example/', 'https://skerrow.example'),
  isRandom: links.isRandom,
  lookAlike: links.lookAlike,
  movedAddress: (given) => links.movedAddress(`https://a.example/${given}`, { from: `https://a.example/${given}`, to: 'https://b.example' }),
  readPastedAddress: (given) => links.readPastedAddress(given, author),
  resolveVariables: (given) => links.resolveVariables({ a: given }, {} as never),
  readContentItems: (given) => lti1.readContentItems(given, NOW),
  readOutcomesRequest: (body) => lti1.readOutcomesRequest(utf8.encode(body)),
  readOutcomesResponse: (body) => lti1.readOutcomesResponse(utf8.encode(body)),
  readResultId: (given) => lti1.readResultId(new Uint8Array(32), given),
  readToolConfiguration: (body) => lti1.readToolConfiguration(utf8.encode(body)),
  checkAuthorization: (given) => lti13.checkAuthorization({ scope: given, state: given } as never),
  readDeepLinkingAnswer: (given) => lti13.readDeepLinkingAnswer(json(given) as never, { clientId: 'c', issuer: 'i', deploymentId: 'd', nowSeconds: 0, leewaySeconds: 0 }),
  readHints: (message) => lti13.readHints([new Uint8Array(32)], { login: message, message } as never),
  readJws: (given) => lti13.readJws(given, 1e9),
  readKeyset: (given) => lti13.readKeyset(json(given)),
  readLineItem: (given) => lti13.readLineItem(json(given)),
  readScore: (given) => lti13.readScore({ ...json(given), userId: 'u', timestamp: given }),
  readToolMetadata: (given) => lti13.readToolMetadata({ client_name: given, redirect_uris: [given] }, { strict: true }),
  rolesAsked: (given) => lti13.rolesAsked(given),
  unbase64url: lti13.unbase64url,
  decodeForm: oauth1.decodeForm,
  parseAuthorizationHeader: (given) => oauth1.parseAuthorizationHeader(`OAuth ${given}`),
  readOAuthParameters: (given) => oauth1.readOAuthParameters([['oauth_nonce', given]]),
  splitAddress: oauth1.splitAddress,
  readOneRoster: (given) => oneroster.readOneRoster({ 'manifest.csv': given }),
  readRosterTable: (given) => oneroster.readRosterTable(`username,name\n${given}`, 'c'),
  guessColumns: (given) => reconciliation.guessColumns([given], [[given]]),
  cleanRichText: richText.cleanRichText,
  plainOf: (html) => richText.plainOf(html),
  toRichText: richText.toRichText,
  readFraction: scores.readFraction,
  cutEnds: (given) => text.cutEnds(given, ' -'),
  elementTexts: (page) => text.elementTexts(text.readHtml(page), ['h1']),
  firstForm: text.firstForm,
  plainAscii: text.plainAscii,
  percentDecoded: text.percentDecoded,
  plainDecimal: text.plainDecimal,
  readHtml: (page) => text.readHtml(page, Infinity),
  slugOf: (title) => text.slugOf(title, 'x'),
  stripHidden: text.stripHidden,
  upTo: (given) => text.upTo(given, '?#'),
  visibleText: text.visibleText,
  withoutBracketed: (given) => text.withoutBracketed(given, '(', ')'),
  readXml: (body) => xml.readXml(utf8.encode(body)),
} // oxfmt-ignore

/** Texts that grow by one part, each the kind that an expression or a tree is slow on. */
const HOSTILE: Record<string, (size: number) => string> = {
  spaces: (n) => `a=b\nb=x${' '.repeat(n)}y`,
  'spaces between OAuth': (n) => `OAuth a${' '.repeat(n)}b`,
  'a subject and spaces': (n) => `subject: to${' '.repeat(n)}${'x'.repeat(80)}`,
  'line ends': (n) => `x${'\r\n'.repeat(n / 2)}y`,
  'opened tags': (n) => `<form>${'<div>'.repeat(n / 5)}`,
  'opened inputs': (n) => '<input '.repeat(n / 7),
  'opening brackets': (n) => '<'.repeat(n),
  'scripts without end': (n) => '<script>'.repeat(n / 8),
  'headings without end': (n) => '<h1>'.repeat(n / 4),
  'empty elements': (n) => `${'<a '.repeat(n / 3)}/>`,
  quotes: (n) => '"'.repeat(n),
  lists: (n) => '['.repeat(n),
  parentheses: (n) => '('.repeat(n),
  slashes: (n) => `https://tool.example${'/'.repeat(n)}x`,
  'hashes and dashes': (n) => `${'#-'.repeat(n / 2)}x`,
  zeros: (n) => `${'0'.repeat(n)}x`,
  equals: (n) => `${'='.repeat(n)}x`,
  'labels in prose': (n) => 'consumer key '.repeat(n / 13),
  'pipes with spaces': (n) => `${'| '.repeat(n / 2)}x`,
  stars: (n) => '**a'.repeat(n / 3),
  'only stars': (n) => '*'.repeat(n),
  'ends of validity': (n) => 'valid until '.repeat(n / 12),
  'labels with values': (n) => 'Key: a '.repeat(n / 7),
  'a JSON text of escapes': (n) => `{"a":"${'\\'.repeat(n & ~1)}"}`,
  escapes: (n) => '%2'.repeat(n / 2),
  fields: (n) => 'a=b&'.repeat(n / 4),
  lines: (n) => 'oauth_a: b ,\n'.repeat(n / 13),
  'zero-width spaces': (n) => `${'\u200b'.repeat(n)}x${'\u200b'.repeat(n)}`,
}
/** What readers of pasted messages like least. */
const HOSTILE_PASTED: typeof HOSTILE = {
  'quotes that are escaped': (n) => '"\\'.repeat(n / 2),
  'names of a message': (n) => 'oauth_nonce '.repeat(n / 12),
  'beginnings of tokens': (n) => 'eyJaaaaaaaaaa'.repeat(n / 13),
  'tokens without end': (n) => 'eyJaaaaaaaaaa.'.repeat(n / 14),
  'signed headers': (n) => 'OAuth a="b",'.repeat(n / 12),
  'headers without end': (n) => `OAuth ${' '.repeat(n)}`,
  commands: (n) => `curl '"\n`.repeat(n / 8),
  'quotes of shells': (n) => `curl ${"$'\\".repeat(n / 3)}`,
  'tables of programs': (n) => '[oauth_nonce] => '.repeat(n / 17),
  'base strings': (n) => 'GET&http:'.repeat(n / 9),
  'an archive': (n) => `{"log":{"entries":[${'{"request":{}},'.repeat(n / 15)}{}]}}`,
  'labels typed off': (n) => 'oauth nonce x\n'.repeat(n / 14),
}
const SMALL = 4_096
const TIMES = 16
/** Twice the text may take three times as long at most, so sixteen times the text 3⁴ times: a reader that is quadratic takes 256 times as long. */
const MOST_TIMES = 81
/** What is over so quickly is no danger, however it grows. */
const HARMLESS_MS = 40

const LOOKS = 5
const isLinear = (once: number, often: number) =>
  often <= HARMLESS_MS || (Number.isFinite(often) && often < MOST_TIMES * Math.max(once, 0.5))

/** The processor's time, which other programs do not lengthen; the least of a few runs. */
function cpuMs(work: () => unknown): number {
  let least = Infinity
  for (let run = 0; run < 3 && (run === 0 || least > 1); run++) {
    const before = process.cpuUsage()
    work()
    const { user, system } = process.cpuUsage(before)
    least = Math.min(least, (user + system) / 1000)
  }
  return least
}

describe('whatever is sent, the time to read it grows no faster than its length', () => {
  it.each(Object.keys(READERS))('%s', (name) => {
    const kinds = name === 'readAllPasted' ? { ...HOSTILE, ...HOSTILE_PASTED } : HOSTILE
    for (const [kind, make] of Object.entries(kinds)) {
      const [small, large] = [make(SMALL), make(SMALL * TIMES)]
      let [once, often] = [Infinity, Infinity]
      // What a busy machine does to one look it does not do to all; a reader that is quadratic is so in each.
      for (let look = 1; look <= LOOKS && !isLinear(once, often); look++) {
        often = Math.min(
          often,
          cpuMs(() => READERS[name]!(large)),
        )
        if (often > HARMLESS_MS)
          once = Math.min(
            once,
            cpuMs(() => READERS[name]!(small)),
          )
      }
      expect(isLinear(once, often), `${kind}: ${once} ms, then ${often} ms`).toBe(true)
    }
  })

  it('leaves out no exported reader', () => {
    const readers = Object.values(MODULES).flatMap((module) =>
      Object.keys(module).filter((name) =>
        /^(read|parse|decode|guess|visible|unbase|clean|plain|slug|toRich)[A-Z6]/.test(name),
      ),
    )
    expect(readers.filter((name) => !(name in READERS))).toEqual([])
  })
})
