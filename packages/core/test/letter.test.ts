import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import {
  diagnoseBodyHash,
  diagnoseSignature,
  LETTER_LANGUAGES,
  supportLetter,
  type Diagnosis,
  type LetterFacts,
} from '@bathyscribe/core/diagnosis'
import { bothOf, FAULTS } from '@bathyscribe/yard/faulty/faults'
import { factsOf, MESSAGES } from '@bathyscribe/yard/faulty/messages'
import { escapeAll, signatureBy } from '@bathyscribe/yard/faulty/signer'
import { describe, expect, it } from 'vitest'
import { GERMAN } from '../src/diagnosis/letter/german.js'

const about: LetterFacts = {
  tool: 'Sextant Bench',
  kind: 'message',
  what: { en: 'a launch was refused', de: 'ein Aufruf wurde abgewiesen' },
  at: '2026-09-01T08:00:00Z',
  reference: 'wire entry 42',
  platform: 'https://lti.skerrow.example',
  from: 'Skerrow Maritime Academy',
}
const cause = (code: string, change: object = {}) => ({ code, sentence: 'An English sentence.', evidence: [['iss', 'https://us.example/']] as [string, string][], ours: null, theirs: 'An English request.', ...change }) // oxfmt-ignore
const found = (...codes: string[]): Diagnosis =>
  ({ certainty: codes.length === 1 ? 'proven' : 'several', sentence: 'An English sentence.', causes: codes.map((code) => cause(code)), ruledOut: ['one', 'another'] }) as never // oxfmt-ignore

/** The commands of a letter, each with the line that says what it shows. */
function commandsOf(letter: string): { shows: string; command: string }[] {
  const lines = letter.split('\n')
  return lines.flatMap((line, n) => (/^ {2}(printf|curl) /.test(line) ? [{ shows: lines[n - 1]!.slice(4), command: line.trim() }] : [])) // oxfmt-ignore
}
const run = (command: string, variables: Record<string, string> = {}) =>
  execFileSync('sh', ['-c', command], { env: { PATH: process.env['PATH'], ...variables }, encoding: 'utf8' }).trim()

describe('a letter to the tool’s support', () => {
  it('has what shows it and what is asked, in either language', () => {
    const [en, de] = LETTER_LANGUAGES.map((language) => supportLetter(found('issuer'), about, language))
    for (const letter of [en!, de!]) {
      expect(letter).toContain('wire entry 42')
      expect(letter).toContain('  iss: https://us.example/')
      expect(letter).toContain('Skerrow Maritime Academy')
    }
    expect(en).toMatch(/^About Sextant Bench: a launch was refused, 2026.*An English sentence\..*What we ask of you: An English request\./s) // oxfmt-ignore
    expect(de).toMatch(
      /^Zu Sextant Bench: ein Aufruf wurde abgewiesen.*Aussteller.*Unsere Bitte: Bitte vergleichen Sie/s,
    )
    expect(de).not.toMatch(/An English/)
  })

  it('says of several that they are, of likely that it is no more, and of none that there is none', () => {
    for (const [diagnosis, en, de] of [
      [found('issuer', 'deployment'), /An English sentence/, /Mehr als eine Ursache/],
      [{ ...found('held_back'), certainty: 'likely' }, /likely, and not proven/, /nicht bewiesen/],
      [{ ...found(), certainty: 'none' }, /ruled out: one; another/, /Keine der bekannten.*ausgeschlossen: 2 weitere/s],
    ] as [Diagnosis, RegExp, RegExp][]) {
      expect(supportLetter(diagnosis, about, 'en')).toMatch(en)
      expect(supportLetter(diagnosis, about, 'de')).toMatch(de)
    }
  })

  it('tells mistakes that were made together by a sentence and a request each', () => {
    const letter = supportLetter(found('other_scheme+trailing_slash'), about, 'de')
    expect(letter).toContain(GERMAN['other_scheme']!.sentence)
    expect(letter).toContain(GERMAN['trailing_slash']!.theirs)
  })

  it('has German words for each cause that there is, and for none that there is not', () => {
    const folder = fileURLToPath(new URL('../src/diagnosis', import.meta.url))
    const sources = readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((name) => name.endsWith('.ts') && !name.startsWith('letter') && name !== 'tool-words.ts')
      .map((name) => readFileSync(join(folder, name), 'utf8'))
    const service = fileURLToPath(new URL('../../service/src/desk/diagnosis/diagnose-signed.ts', import.meta.url))
    const text = [...sources, readFileSync(service, 'utf8')].join('\n')
    // Written out, chosen between two, or handed to a function that makes faults.
    const codes = [...text.matchAll(/(?:\bcode: |fault\(\s*)(?:\w+ [=<>!]+ (?:undefined|0) \? |\w+ \? )?'([a-z_]+)'(?: : '([a-z_]+)')?/g)].flatMap(([, one, other]) => [one!, ...(other ? [other] : [])]) // oxfmt-ignore
    expect(new Set(codes).size).toBeGreaterThan(60)
    expect([...new Set(codes)].filter((code) => !GERMAN[code])).toEqual([])
    expect(Object.keys(GERMAN).filter((code) => !codes.includes(code))).toEqual([])
    for (const [code, { sentence, theirs }] of Object.entries(GERMAN)) {
      expect(sentence, code).toMatch(/^[A-ZÄÖÜ„].*\.$/)
      expect(theirs, code).toMatch(/\.$/)
    }
  })
})

describe('the commands of a letter', () => {
  const sent = MESSAGES[0]!
  const variables = { SECRET: escapeAll(sent.sharedSecret), KEY: escapeAll(sent.consumerKey) }
  /** What a letter about a fault has, when the fault is found by itself. */
  const letterOf = (what: string, message = sent) => {
    const fault = FAULTS.find((one) => one.what === what)!
    const signature = signatureBy(message, fault.doing)
    const diagnosis = diagnoseSignature(factsOf(message, signature))
    return { signature, letter: supportLetter(diagnosis, about, 'en') }
  }

  it.each([
    ['http for https'],
    ['slash at the end'],
    ['signed as GET'],
    ['blanks as plus'],
    ['not sorted'],
    ['submit added'],
    ['path decoded'],
    ['query not signed'],
    ['no “&” behind the secret'],
    ['key for secret'],
  ])('come to the right signature, and to the one that was sent: %s', (what) => {
    const { letter, signature } = letterOf(what)
    const commands = commandsOf(letter)
    expect(commands.map(({ shows }) => shows)).toContain('The signature as it must be:')
    for (const { shows, command } of commands)
      expect(run(command, variables), shows).toBe(shows.startsWith('The signature as it must') ? signatureBy(sent) : signature) // oxfmt-ignore
    expect(commands.length).toBeGreaterThan(1)
  })

  it.each(['secret with " " behind it', 'last character missing', 'secret in capitals', 'the secret of another'])(
    'come to the one that was sent by the secret of whoever runs them: %s',
    (what) => {
      const message = MESSAGES[0]!
      const fault = FAULTS.find((one) => one.what === what)!
      const { letter, signature } = letterOf(what, message)
      const [only, ...more] = commandsOf(letter)
      expect(more).toEqual([])
      const theirs = escapeAll(fault.doing.secret!(message.sharedSecret, message.consumerKey))
      expect(run(only!.command, { SECRET: theirs })).toBe(signature)
      expect(run(only!.command, variables)).toBe(signatureBy(message))
    },
  )

  it('never hold a secret, whatever is found', () => {
    for (const fault of [...FAULTS, bothOf(FAULTS[0]!, FAULTS.find(({ what }) => what === 'http for https')!)!])
      for (const message of MESSAGES.slice(0, 3)) {
        const diagnosis = diagnoseSignature(factsOf(message, signatureBy(message, fault.doing)))
        const letter = supportLetter(diagnosis, about, 'de')
        for (const secret of [message.sharedSecret, escapeAll(message.sharedSecret), 'capstan-before-2025', 'parallel-rules-77'])
          expect(letter.includes(secret), fault.what).toBe(false)
      }
  }) // oxfmt-ignore

  it('come to the hash of the body that came, byte for byte', () => {
    const body = new TextEncoder().encode('<a>\n  <b>it’s</b>\n</a>\n')
    const sentHash = createHash('sha1').update(new TextDecoder().decode(body).trim()).digest('base64')
    const diagnosis = diagnoseBodyHash({ body, sent: sentHash, signatureMethod: 'HMAC-SHA1' })
    const [only] = commandsOf(supportLetter(diagnosis, about, 'en'))
    expect(run(only!.command)).toBe(createHash('sha1').update(body).digest('base64'))
    const large = diagnoseBodyHash({ body: new Uint8Array([...body, ...new Uint8Array(9000).fill(32)]), sent: sentHash, signatureMethod: 'HMAC-SHA1' }) // oxfmt-ignore
    expect(large.causes).toHaveLength(1)
    expect(commandsOf(supportLetter(large, about, 'en'))).toEqual([])
  })

  it('show header and claims of the token of whoever runs them', () => {
    const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
    const [header, claims] = [
      { alg: 'RS256', kid: 'k?>~1' },
      { iss: 'https://us.example/', name: 'Zoë ~?>' },
    ]
    const letter = supportLetter(found('key_unknown', 'issuer'), { ...about, kind: 'token' }, 'en')
    const commands = commandsOf(letter).filter(({ command }) => command.includes('TOKEN'))
    const shown = commands.map(({ command }) => JSON.parse(run(command, { TOKEN: `${part(header)}.${part(claims)}.c2ln` })) as unknown) // oxfmt-ignore
    expect(shown).toEqual([header, claims])
    expect(letter).toContain("curl -s 'https://lti.skerrow.example/.well-known/openid-configuration'")
    expect(commandsOf(supportLetter(found('milliseconds'), about, 'en'))).toEqual([])
  })
})
