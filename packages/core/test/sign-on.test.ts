import {
  accountOf,
  identifierOf,
  judgeFirstVisit,
  roleChange,
  saysAdministrator,
  type FoundAccount,
  type SignOnRule,
} from '@bathyscribe/core/identity'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const RULE: SignOnRule = {
  match: 'email',
  matchClaim: null,
  admits: 'known',
  administratorClaim: null,
  administratorValue: null,
}
const ACCOUNT: FoundAccount = { id: 'p1', siteRole: 'none', closed: false, tiedToOther: false }

describe('what somebody is looked for by at the first visit', () => {
  it.each([
    ['nothing, where people tie their accounts', { match: 'nobody' as const }, { email: 'a@b' }, { found: 'none' }],
    ['a verified address, in small letters', {}, { email: ' Niamh@Skerrow.example ', email_verified: true }, { found: 'value', match: 'email', value: 'niamh@skerrow.example' }],
    ['an address that is verified as a text', {}, { email: 'n@s', email_verified: 'true' }, { found: 'value', match: 'email', value: 'n@s' }],
    ['no address that is not said to be verified', {}, { email: 'n@s' }, { found: 'unverified', claim: 'email' }],
    ['no address that is said not to be', {}, { email: 'n@s', email_verified: false }, { found: 'unverified', claim: 'email' }],
    ['nor one of another claim without it', { matchClaim: 'mail' }, { mail: 'n@s' }, { found: 'unverified', claim: 'mail' }],
    ['no claim that is not there', {}, {}, { found: 'missing', claim: 'email' }],
    ['nor one that is no text', {}, { email: ['n@s'], email_verified: true }, { found: 'missing', claim: 'email' }],
    ['a user name', { match: 'username' as const }, { preferred_username: 'Niamh' }, { found: 'value', match: 'username', value: 'niamh' }],
    ['an identifier as it is written', { match: 'sourced_id' as const, matchClaim: 'staffNumber' }, { staffNumber: 'S-7a' }, { found: 'value', match: 'sourced_id', value: 'S-7a' }],
    ['an identifier that is a number', { match: 'sourced_id' as const, matchClaim: 'number' }, { number: 4711 }, { found: 'value', match: 'sourced_id', value: '4711' }],
    ['nothing of what every object has', { match: 'username' as const, matchClaim: 'constructor' }, {}, { found: 'missing', claim: 'constructor' }],
  ])('is %s', (_, rule, claims, wanted) => expect(identifierOf({ ...RULE, ...rule }, claims)).toEqual(wanted)) // oxfmt-ignore
})

describe('who comes for the first time', () => {
  const judged = (accounts: FoundAccount[], admits: SignOnRule['admits'] = 'known') =>
    judgeFirstVisit({ admits }, accounts)

  it('gets the one account that there is', () => expect(judged([ACCOUNT])).toEqual({ act: 'tie', personId: 'p1' }))
  it('is made one where everybody is admitted, and none otherwise', () => {
    expect(judged([], 'everybody')).toEqual({ act: 'make' })
    expect(judged([])).toEqual({ act: 'refuse', why: 'not_known' })
  })
  it.each([
    ['several', [ACCOUNT, { ...ACCOUNT, id: 'p2' }]],
    ['tie_first', [{ ...ACCOUNT, siteRole: 'administrator' as const }]],
    ['other_subject', [{ ...ACCOUNT, tiedToOther: true }]],
    ['closed', [{ ...ACCOUNT, closed: true }]],
  ])('is refused: %s', (why, accounts) => {
    for (const admits of ['known', 'everybody'] as const)
      expect(judged(accounts, admits)).toEqual({ act: 'refuse', why })
  })
  it('never gets an account of an administrator, of somebody else, or one that is closed', () => {
    const account = fc.record({
      id: fc.string(),
      siteRole: fc.constantFrom('none' as const, 'administrator' as const),
      closed: fc.boolean(),
      tiedToOther: fc.boolean(),
    })
    fc.assert(
      fc.property(
        fc.array(account, { maxLength: 3 }),
        fc.constantFrom('known' as const, 'everybody' as const),
        (accounts, admits) => {
          const done = judgeFirstVisit({ admits }, accounts)
          if (done.act === 'tie')
            expect(accounts).toEqual([{ id: done.personId, siteRole: 'none', closed: false, tiedToOther: false }])
          if (done.act === 'make') expect([accounts, admits]).toEqual([[], 'everybody'])
        },
      ),
    )
  })
})

describe('an administrator by claims', () => {
  const rule = { ...RULE, administratorClaim: 'groups', administratorValue: 'technologists' }
  it.each([
    [null, RULE, { groups: ['technologists'] }],
    [true, rule, { groups: ['staff', 'technologists'] }],
    [true, rule, { groups: 'technologists' }],
    [false, rule, { groups: ['staff'] }],
    [false, rule, { groups: 'technologists staff' }],
    [false, rule, {}],
  ])('%s', (wanted, given, claims) => expect(saysAdministrator(given, claims)).toBe(wanted))

  it.each([
    ['widen', true, 'none', false],
    [null, true, 'administrator', false],
    ['narrow', false, 'administrator', true],
    ['narrow', null, 'administrator', true],
    [null, false, 'administrator', false],
    [null, null, 'none', true],
    [null, false, 'none', true],
  ] as const)('%s, when claims say %s of one who is %s (given by the provider: %s)', (wanted, says, siteRole, given) =>
    expect(roleChange(says, { siteRole, givenByProvider: given })).toBe(wanted),
  )
})

describe('an account that is made', () => {
  it('has what the claims tell', () => {
    const claims = {
      sub: 's',
      preferred_username: 'Sunniva@Skerrow.example',
      name: 'Sunniva Brekkandoval',
      given_name: 'Sunniva',
      family_name: 'Brekkandoval',
      email: 'sunniva@skerrow.example',
      email_verified: true,
    }
    expect(accountOf(claims)).toEqual({
      username: 'sunniva',
      fullName: 'Sunniva Brekkandoval',
      givenName: 'Sunniva',
      familyName: 'Brekkandoval',
      email: 'sunniva@skerrow.example',
    })
    expect(accountOf({ ...claims, email_verified: false }).email).toBeNull()
  })
  it.each([
    [{ given_name: 'Ana', family_name: 'Roe' }, 'person', 'Ana Roe'],
    [{ email: 'o.ulf@skerrow.example' }, 'o.ulf', 'o.ulf'],
    [{ preferred_username: 'Ærøskøbing Åse' }, 'ærøskøbing-åse', 'ærøskøbing-åse'],
    [{ preferred_username: '…' }, 'person', 'person'],
    [{}, 'person', 'person'],
  ])('of %j', (claims, username, fullName) => expect(accountOf(claims)).toMatchObject({ username, fullName }))
  it('always has a user name that user names may be, whatever the claims are', () => {
    const claim = fc.oneof(fc.string({ unit: 'binary' }), fc.integer(), fc.constant(null), fc.array(fc.string()))
    fc.assert(
      fc.property(fc.record({ preferred_username: claim, email: claim, name: claim, given_name: claim }), (claims) => {
        const { username, fullName } = accountOf(claims)
        expect(username).toMatch(/^[\p{Ll}\p{Lo}\p{N}][\p{Ll}\p{Lo}\p{Lm}\p{M}\p{N}._-]{1,62}$/u)
        expect(fullName).not.toBe('')
        expect(fullName).not.toContain('\u0000')
      }),
    )
  })
})
