import { describe, expect, it } from 'vitest'
import {
  causeOfRefusal,
  hindranceOf,
  judgeHandshake,
  launchRefusal,
  probeCredentials,
  Probes,
  type ProbeCredentials,
  type ToolAnswer,
} from '@bathyscribe/core/checks'

const answer = (change: Partial<ToolAnswer> = {}): ToolAnswer => ({
  status: 200,
  url: 'https://t.example/launch',
  body: '<h1>Welcome</h1>',
  returned: null,
  failure: null,
  ...change,
})
const no = (status: number, body: string) => answer({ status, body })
const HELD = { consumerKey: 'skerrow-knots', sharedSecret: 'halyard 3' }
const DECOY = 'd'.repeat(43)

/** A tool as it answers: what a launch is signed with, and the how-manieth it is of all. */
type Tool = (credentials: ProbeCredentials, n: number) => ToolAnswer
function probed(tool: Tool, held = HELD, other?: Parameters<typeof probeCredentials>[2]) {
  let n = 0
  const first = tool(held, n++)
  const sent: string[] = []
  const probes = new Probes(first, probeCredentials(held, DECOY, other), (probe, credentials) => {
    sent.push(probe)
    return Promise.resolve(tool(credentials, n++))
  })
  return { first, probes, sent }
}
async function causeOf(tool: Tool, held = HELD, other?: Parameters<typeof probeCredentials>[2]) {
  const { first, probes, sent } = probed(tool, held, other)
  return { ...(await causeOfRefusal(first, probes, held.consumerKey, other)), sent }
}
const handshake = async (tool: Tool, held = HELD) => {
  const { first, probes } = probed(tool, held)
  return (await judgeHandshake(first, probes, held.consumerKey)).code
}

/** A tool that holds a key and a secret, and objects to something else once both are right. */
const holding =
  (
    theirs: ProbeCredentials,
    { then = no(400, 'No user_id'), page = (words: string, _n: number) => words }: { then?: ToolAnswer; page?: (words: string, n: number) => string } = {},
  ): Tool =>
  ({ consumerKey, sharedSecret }, n) => {
    if (consumerKey !== theirs.consumerKey) return no(401, page(`I do not know the key “${consumerKey}”.`, n))
    if (sharedSecret !== theirs.sharedSecret) return no(401, page('The signature does not match.', n))
    return { ...then, body: page(then.body, n) }
  } // oxfmt-ignore

const ANOTHER = { ...HELD, sharedSecret: 'fender 8' }
/** What pages say that changes by itself. */
const NOISES: Record<string, (words: string, n: number) => string> = {
  'nothing else': (words) => words,
  'a short reference': (words, n) => `${words} Reference ${['K7QXABM', 'P2LLRTA', 'ZZ90QVC', 'QX1B', 'MMTRW', 'AB', 'CD', 'EF', 'GH', 'IJ', 'KL', 'MN'][n % 12]}.`, // oxfmt-ignore
  'the time in words': (words, n) => `${words} It is ${['noon', 'one', 'two', 'three', 'four', 'five', 'six'][n % 7]} o’clock.`, // oxfmt-ignore
  'a greeting by lot': (words, n) => `${['Ahoy', 'Good morning', 'Welcome aboard', 'Ahoy'][(n * 7 + 3) % 4]}! ${words}`,
  'a long token': (words, n) => `${words} ${String.fromCharCode(97 + (n % 26)).repeat(30)}`,
}

describe('the cause of a refused launch', () => {
  it.each(Object.entries(NOISES))('is told through pages that say %s', async (_, page) => {
    expect(await causeOf(holding(ANOTHER, { page }))).toMatchObject({ code: 'secret_wrong', key: HELD.consumerKey })
    expect(await causeOf(holding(HELD, { page }))).toMatchObject({ code: 'not_the_credentials' })
    expect(await causeOf(holding({ ...HELD, consumerKey: 'other' }, { page }))).toMatchObject({ code: 'key_or_secret_wrong' }) // oxfmt-ignore
  })

  it('is never the credentials where only what changes by itself differs, and never said not to be them', async () => {
    for (const page of Object.values(NOISES)) {
      const alike: Tool = (_, n) => no(403, page('Refused.', n))
      expect(['key_or_secret_wrong', 'not_told']).toContain((await causeOf(alike)).code)
      expect(['not_told', 'not_clear']).toContain(await handshake(alike))
    }
  })

  it('is said of one tool in a hundred at the most that greets by lot and tells nothing', async () => {
    let seed = 1
    const lot = (among: number) => Math.floor(((seed = (seed * 48271) % 2147483647) / 2147483647) * among)
    let wrong = 0
    for (let i = 0; i < 1000; i++) {
      const greetings = ['Ahoy', 'Good morning', 'Hello', 'Welcome aboard', 'Moin'].slice(0, 2 + (i % 4))
      const { code } = await causeOf(() => no(403, `${greetings[lot(greetings.length)]}! Refused.`))
      if (code !== 'key_or_secret_wrong' && code !== 'not_told') wrong++
    }
    expect(wrong).toBeLessThanOrEqual(10)
  })

  it('is a candidate that is taken each time, when all else is refused', async () => {
    const taking = (theirs: ProbeCredentials) => holding(theirs, { then: answer() })
    const hidden = { ...HELD, sharedSecret: 'halyard 3\u200b\n' }
    expect(await causeOf(taking(HELD), hidden)).toMatchObject({ code: 'secret_has_hidden_characters' })
    const swapped = { consumerKey: HELD.sharedSecret, sharedSecret: HELD.consumerKey }
    expect(await causeOf(taking(swapped))).toMatchObject({ code: 'key_and_secret_swapped' })
    const other = (role: 'previous' | 'next') => ({ role, sharedSecret: ANOTHER.sharedSecret })
    expect(await causeOf(taking(ANOTHER), HELD, other('previous'))).toMatchObject({ code: 'previous_secret_is_held' })
    expect(await causeOf(taking(ANOTHER), HELD, other('next'))).toMatchObject({ code: 'next_secret_is_held' })
  })

  it('is no candidate where chance decides: what was refused once is taken the next time, or what is made up is', async () => {
    expect(await causeOf((_, n) => (n === 0 ? no(401, 'Busy') : answer()))).toMatchObject({ code: 'not_verified' })
    expect(await causeOf((_, n) => (n === 4 ? answer() : no(401, 'Busy')), { ...HELD, sharedSecret: ' x ' })).toMatchObject({ code: 'unsteady' }) // oxfmt-ignore
    // The candidate is taken, and so is the launch as it was when it comes again.
    const settled: Tool = ({ sharedSecret }, n) => (sharedSecret === DECOY || n < 2 ? no(401, 'Busy') : answer())
    const byKey: Tool = (credentials, n) => (credentials.consumerKey === DECOY ? no(401, 'Busy') : settled(credentials, n)) // oxfmt-ignore
    expect(await causeOf(byKey)).toMatchObject({ code: 'unsteady' })
  })

  it('is nothing of the launch where something else answers, and then nothing more is sent', async () => {
    const firewall = no(403, '<h1>Access denied</h1>Your request was blocked by our security policy.')
    const cases: [ToolAnswer, string][] = [
      [no(429, 'Slow down'), 'too_many'],
      [firewall, 'firewall'],
      [no(503, 'We are down for maintenance'), 'maintenance'],
      [no(503, 'Wartungsarbeiten'), 'maintenance'],
    ]
    for (const [one, what] of cases) {
      expect(await causeOf(() => one)).toMatchObject({ code: 'hindered', what, status: one.status, sent: [] })
      expect(await handshake(() => one)).toBe('hindered')
      // In the middle as well: what the probes before told is not judged by what came then.
      const later = await causeOf((_, n) => (n < 2 ? no(401, 'No') : one))
      expect(later).toMatchObject({ code: 'hindered', what })
      expect(later.sent.length).toBeLessThan(4)
    }
    // No answer is no other status than the one that was answered before.
    const silent = answer({ status: 0, body: '', failure: 'The tool took too long.' })
    expect(await causeOf(({ sharedSecret }) => (sharedSecret === DECOY ? silent : no(401, 'No')))).toMatchObject({ code: 'hindered', what: 'no_answer' }) // oxfmt-ignore
    expect(await causeOf(() => no(500, 'Oops'))).toMatchObject({ code: 'hindered', what: 'server_error', sent: [] })
  })

  it('is a page to sign in only where it is shown whatever is sent', async () => {
    const form = '<form><input type="password"></form>'
    expect(await causeOf(() => no(401, `Sign in ${form}`))).toMatchObject({ code: 'hindered', what: 'sign_in' })
    // Made-up launches are led to it, which takes nothing: ours is refused for something else.
    const leading: Tool = ({ sharedSecret, consumerKey }) => (sharedSecret === DECOY || consumerKey === DECOY ? answer({ body: form }) : no(403, 'Class closed')) // oxfmt-ignore
    expect(await causeOf(leading)).toMatchObject({ code: 'not_the_credentials' })
    expect(hindranceOf(no(401, `The signature does not match. ${form}`))).toBeUndefined()
  })

  it('is the address where nothing stands', async () => {
    expect(await causeOf(() => no(405, 'Method not allowed'))).toMatchObject({ code: 'address_wrong', status: 405 })
  })

  it('is not hidden by the tool quoting the key', async () => {
    expect(await causeOf(({ consumerKey }) => no(401, `No such key: ${consumerKey}`))).toMatchObject({ code: 'key_or_secret_wrong' }) // oxfmt-ignore
  })

  it('is not found in letters of a key that stand in other words', async () => {
    const held = { ...HELD, consumerKey: 'e' }
    expect(await causeOf(({ consumerKey }) => no(401, `Refused: the key ${consumerKey} is not here.`), held)).toMatchObject({ code: 'key_or_secret_wrong' }) // oxfmt-ignore
  })

  it('is read off the first words of a page, however long it is', async () => {
    const rest = 'word '.repeat(100)
    const beyond: Tool = (_, n) => no(401, `${'x '.repeat(300)}${['noon', 'dusk', 'dawn', 'night'][n % 4]} ${rest}`)
    expect(await causeOf(beyond)).toMatchObject({ code: 'key_or_secret_wrong', sent: ['decoy_secret', 'decoy_key', 'swapped'] }) // oxfmt-ignore
  })

  it('sends as little as tells it: three where answers are plain, never more than four of each', async () => {
    expect((await causeOf(() => no(401, 'No'))).sent.sort()).toEqual(['decoy_key', 'decoy_secret', 'swapped'])
    for (const page of Object.values(NOISES))
      for (const tool of [holding(HELD, { page }), holding(ANOTHER, { page })]) {
        const { sent } = await causeOf(tool)
        for (const probe of new Set(sent)) expect(sent.filter((one) => one === probe).length).toBeLessThanOrEqual(4)
      }
  })

  it('takes no answer for taken that leads somewhere else', () => {
    expect(launchRefusal(answer())).toBeUndefined()
    expect(hindranceOf(answer({ url: 'https://t.example/login?next=1' }))).toBe('sign_in')
    expect(hindranceOf(answer({ url: 'https://t.example/oauth/consent' }))).toBe('consent')
    expect(hindranceOf(answer({ url: 'https://t.example/logins-and-knots' }))).toBeUndefined()
    expect(hindranceOf(answer({ body: 'A lesson on the maintenance of winches and warps.' }))).toBeUndefined()
    expect(hindranceOf(answer({ body: 'The site is under maintenance.' }))).toBe('maintenance')
  })
})

describe('a handshake without a launch', () => {
  it.each<[string, Tool, ProbeCredentials, string]>([
    ['right', holding(HELD), HELD, 'agree'],
    ['a wrong secret', holding(ANOTHER), HELD, 'secret_wrong'],
    ['a secret with blanks', holding(HELD), { ...HELD, sharedSecret: 'halyard 3\u200b' }, 'hidden_characters'],
    ['swapped', holding({ consumerKey: HELD.sharedSecret, sharedSecret: HELD.consumerKey }), HELD, 'swapped'],
    ['a tool that does not tell', () => no(400, 'No user_id'), HELD, 'not_told'],
    ['a server in trouble', () => no(500, 'Oops'), HELD, 'no_answer'],
  ])('%s', async (_, tool, held, code) => {
    expect(await handshake(tool, held)).toBe(code)
  })

  it.each(Object.entries(NOISES))('is told through pages that say %s', async (_, page) => {
    expect(await handshake(holding(HELD, { page }))).toBe('agree')
    expect(await handshake(holding(ANOTHER, { page }))).toBe('secret_wrong')
  })
})
