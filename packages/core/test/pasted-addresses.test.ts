import { belongsTo, isRandom, readPastedAddress, toolsOf } from '@bathyscribe/core/links'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const now = new Date('2026-11-23T12:00:00Z')
const author = { identities: ['tomas', 'tomas@skerrow.example', 'Tomas Okaforlind'], now }
const read = (text: string, choice = {}) => {
  const found = readPastedAddress(text, author, choice)
  if ('code' in found) throw new Error(found.code)
  return found
}
const BASE = 'https://plots.example/plot/running-fix'

describe('a pasted address', () => {
  it.each([
    ['a session identifier', 'edition=4&PHPSESSID=8d7f', 'edition=4'],
    ['a token', 'edition=4&access_token=abc', 'edition=4'],
    ['the author by name', 'edition=4&who=tomas', 'edition=4'],
    ['the author by email, encoded', 'edition=4&x=tomas%40skerrow.example', 'edition=4'],
    ['a user parameter', 'user_id=77&edition=4', 'edition=4'],
    ['a user parameter with a word before it', 'effectiveUser=anna&edition=4&current_user_id=77', 'edition=4'],
    ['what stands in a user parameter as well, whatever it is called', 'user=anna&viewAs=Anna&edition=4', 'edition=4'],
    ['what counts visits', 'edition=4&utm_source=mail&fbclid=x', 'edition=4'],
    ['an expiry', 'edition=4&expires=1764000000', 'edition=4'],
    ['a moment close to now under any name', `edition=4&x=${now.getTime() / 1000 - 60}`, 'edition=4'],
    ['something long and random', 'edition=4&k=q7ZkLm9xR2vT8bWc4Yp0', 'edition=4'],
    ['where to go back to', 'edition=4&return_url=https%3A%2F%2Fcourse.example', 'edition=4'],
  ])('loses %s', (_, query, left) => {
    expect(read(`${BASE}?${query}`).cleaned).toBe(`${BASE}?${left}`)
  })

  it.each([
    ['what chooses the content', 'set=running-fix&edition=4&lang=en'],
    ['an identifier of the usual form, which is shown as doubtful', 'item=2f1c9e0a-4b7d-4c1e-9a51-0d6f2b3c4d5e'],
    ['long words', 'chapter=the-approach-to-skerrow-by-night'],
    ['a number that a user parameter has as well', 'page=101&set=user-guide&browser=x&endUsers=12'],
    ['a year and a number', 'year=2026&n=1234567890123456'],
    ['a parameter twice, in its order', 'layer=a&layer=b&x='],
    ['how it is written', 'q=a%20b+c&z=%C3%A5'],
  ])('keeps %s', (_, query) => {
    expect(read(`${BASE}?${query}`).cleaned).toBe(`${BASE}?${query}`)
  })

  it('keeps what is the same as a user parameter by chance: numbers, short words', () => {
    expect(read(`${BASE}?uid=101&page=101&user=ab&x=ab`).cleaned).toBe(`${BASE}?page=101&x=ab`)
    const found = read(`${BASE}?user=anna&viewAs=anna`)
    expect(found.parameters[1]).toMatchObject({
      verdict: 'session',
      reason: expect.stringContaining('“user”') as string,
    })
    expect(read(`${BASE}?user=anna&viewAs=anna`, { keep: ['viewAs'] }).cleaned).toBe(`${BASE}?viewAs=anna`)
  })

  it('says of each parameter why, and lets one act keep or drop it', () => {
    const found = read(`${BASE}?edition=4&sid=abc`)
    expect(found.parameters).toEqual([
      expect.objectContaining({ name: 'edition', verdict: 'needed', kept: true }),
      expect.objectContaining({ name: 'sid', verdict: 'session', kept: false }),
    ])
    expect(read(`${BASE}?edition=4&sid=abc`, { keep: ['sid'] }).cleaned).toBe(`${BASE}?edition=4&sid=abc`)
    expect(read(`${BASE}?edition=4&sid=abc`, { drop: ['edition'] }).cleaned).toBe(BASE)
  })

  it('is trimmed, loses its # part and a session in its path, and says so', () => {
    const found = read(` <https://plots.example/plot;jsessionid=A1B2?x=1#top>\u200b`)
    expect(found.cleaned).toBe('https://plots.example/plot?x=1')
    expect(found.remarks).toHaveLength(3)
  })

  it.each([
    '',
    'plots.example/x',
    'javascript:alert(1)',
    'data:text/html,x',
    'file:///etc/passwd',
    'https://a:b@plots.example/',
  ])('“%s” is refused', (text) => expect(readPastedAddress(text, author)).toHaveProperty('code'))

  it('whatever is pasted, the cleaned address is launchable and cleaning it again changes nothing', () => {
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true }), (url) => {
        const found = readPastedAddress(url, author)
        if ('code' in found) return
        const again = readPastedAddress(found.cleaned, author)
        expect(again).toHaveProperty('cleaned', found.cleaned)
      }),
      { numRuns: 500 },
    )
  })

  it('tells chance from words', () => {
    expect(isRandom('9f86d081884c7d659a2feaa0c55ad015')).toBe(true)
    expect(isRandom('soundings-and-datum-reduction')).toBe(false)
    expect(isRandom('aaaaaaaaaaaaaaaaaaaaaaaa1')).toBe(false)
  })
})

describe('whose address it is', () => {
  const tools = [
    { slug: 'plotting', addresses: ['https://plots.example/launch'] },
    { slug: 'plotting-old', addresses: ['https://plots.example/old'] },
    { slug: 'bench', addresses: ['https://bench.tools.example/launch', 'http://127.0.0.1:9104/x'] },
  ]
  it('is found by the surest way, and several are all named', () => {
    expect(toolsOf('https://plots.example/plot/x', tools).map((one) => one.slug)).toEqual(['plotting', 'plotting-old'])
    expect(toolsOf('https://bench.tools.example/z', tools).map((one) => one.slug)).toEqual(['bench'])
    expect(toolsOf('http://127.0.0.1:9104/z', tools).map((one) => one.slug)).toEqual(['bench'])
    expect(toolsOf('http://127.0.0.1:9105/z', tools)).toEqual([])
    expect(toolsOf('https://nobody.example/z', tools)).toEqual([])
  })
  it.each([
    ['https://eu.bench.tools.example/x', 'https://bench.tools.example/'],
    ['https://eu.bench.tools.example/x', 'https://us.bench.tools.example/'],
    ['https://tools.example/x', 'https://bench.tools.example/'],
    ['https://a.bench.co.uk/x', 'https://BENCH.co.uk/'],
  ])('%s is under the same registered name as %s', (address, known) => {
    expect(belongsTo(address, [known])).toBe('domain')
  })

  it.each([
    ['another name of the registry', 'https://a.co.uk/x', 'https://b.co.uk/'],
    ['another name of a registry with a long suffix', 'https://a.qld.edu.au/x', 'https://b.qld.edu.au/'],
    ['another top-level name', 'https://b.example/x', 'https://a.example/'],
    ['a neighbour at a house that hosts pages', 'https://stranger.github.io/x', 'https://vendor.github.io/'],
    [
      'a neighbour at a house that hosts programs',
      'https://stranger.azurewebsites.net/',
      'https://vendor.azurewebsites.net/',
    ],
    ['what is below the house’s own name', 'https://stranger.herokuapp.com/', 'https://herokuapp.com/'],
    ['a number beside a number', 'https://10.0.0.2/', 'https://10.0.0.1/'],
  ])('%s is a stranger', (_, address, known) => {
    expect(belongsTo(address, [known])).toBeUndefined()
  })
})
