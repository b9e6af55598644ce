import type { Identity, IdentityProvider } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import IdentityProviders from '../src/pages/IdentityProviders.vue'
import PersonPage from '../src/pages/PersonPage.vue'
import SignIn from '../src/pages/SignIn.vue'
import Watch from '../src/pages/Watch.vue'
import ConfirmPassword from '../src/parts/ConfirmPassword.vue'
import OwnIdentities from '../src/people/OwnIdentities.vue'
import { askPassword, tellConfirmed } from '../src/state/confirming.js'
import { loadSession } from '../src/state/session.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'
import { open } from './page.js'

const AT = '2026-11-02T10:00:00.000Z'
const CHOICE = { handle: 'skerrow', name: 'Skerrow account' }
const provider = (more: Partial<IdentityProvider> = {}): IdentityProvider => ({
  ...{ ...CHOICE, id: 'abcdefghijkm', issuer: 'https://accounts.skerrow.example', clientId: 'academy', hasSecret: true },
  ...{ scopes: 'openid profile email', match: 'email', matchClaim: null, admits: 'known', enabled: true, people: 0 },
  ...{ administratorClaim: null, administratorValue: null, lastAt: null, revision: 3, redirectUri: 'https://b.example/r' },
  ...{ signOutUri: 'https://b.example/o', afterSignOutUri: 'https://b.example/sign-in' },
  ...more,
}) // oxfmt-ignore
const identity = (more: Partial<Identity> = {}): Identity => ({
  ...{ provider: { ...CHOICE, enabled: true }, subject: 's-7', tiedAt: AT, tiedBy: 'match', lastAt: AT, gaveAdministrator: false },
  ...more,
}) // oxfmt-ignore
/** Presses the button of the question that was opened last. */
async function agree(text: string, settle: () => Promise<void>) {
  ;[...document.querySelectorAll('button')]
    .filter((one) => one.textContent.trim() === text)
    .at(-1)!
    .click()
  await settle()
}

describe('the sign-in page', () => {
  it('leads to each provider, and back to where one wanted to go', async () => {
    serve({ setupState: () => ({ needed: false }), listSignOnChoices: () => ({ items: [CHOICE] }) })
    const page = await open(SignIn, {}, '/sign-in?next=/courses/x')
    const link = [...document.querySelectorAll('a')].find((one) =>
      one.textContent.includes('Sign in with Skerrow account'),
    )
    expect(link!.getAttribute('href')).toBe('/sign-on/skerrow?next=%2Fcourses%2Fx')
    expect(page.field('Password')).toBeDefined()
    expect(page.faults).toEqual([])
  })

  it('has user name and password where there is no provider, and where nobody can say', async () => {
    serve({ setupState: () => ({ needed: false }), listSignOnChoices: () => ({ items: [] }) })
    const without = await open(SignIn, {}, '/sign-in?next=//elsewhere.example')
    expect(without.text()).not.toContain('Sign in with')
    expect(without.field('User name')).toBeDefined()
    without.view.unmount()
    refuse('listSignOnChoices', 'service.busy')
    expect((await open(SignIn)).field('User name')).toBeDefined()
  })
})

describe('identity providers', () => {
  it('are none at first, and one is added', async () => {
    serve({ listIdentityProviders: () => ({ items: [] }), addIdentityProvider: () => provider() })
    const page = await open(IdentityProviders)
    expect(page.text()).toContain('None yet')
    await page.press('Add a provider')
    await page.type('Name', 'Skerrow account')
    await page.type('Short name', 'skerrow')
    await page.type('Issuer', 'https://accounts.skerrow.example')
    await page.type('Client ID', 'academy')
    await page.type('Client secret', 'deep')
    await page.type('Who may sign in', 'everybody')
    refuse('addIdentityProvider', 'sign_on.not_a_provider', 'it calls itself by another issuer')
    await page.press('Add the provider')
    expect(page.text()).toContain('it calls itself by another issuer')
    expect(page.field('Client secret').value, 'what was typed stays').toBe('deep')
    serve({ addIdentityProvider: () => provider() })
    await page.press('Add the provider')
    expect(callsOf('addIdentityProvider').at(-1)!.body).toMatchObject({
      handle: 'skerrow',
      clientSecret: 'deep',
      admits: 'everybody',
      match: 'email',
      matchClaim: null,
      administratorClaim: null,
      enabled: true,
    })
    expect(page.faults).toEqual([])
  })

  it('are shown with what they have to be told, and checked', async () => {
    serve({
      listIdentityProviders: () => ({
        items: [
          provider({
            people: 2,
            lastAt: AT,
            administratorClaim: 'groups',
            administratorValue: 'technologists',
            matchClaim: 'mail',
          }),
        ],
      }),
      checkIdentityProvider: () => ({
        provider: provider(),
        findings: [
          { what: 'keys', state: 'good', says: 'read' },
          { what: 'client', state: 'bad', says: 'client ID or secret is wrong' },
        ],
      }),
    })
    const page = await open(IdentityProviders)
    for (const words of [
      'https://b.example/r',
      'https://b.example/o',
      'technologists',
      'claim mail',
      '2 accounts are tied',
    ])
      expect(page.text()).toContain(words)
    await page.press('Check')
    expect([...document.querySelectorAll('tbody tr')].map((one) => one.textContent.trim())).toEqual([
      '● keys read',
      '✕ client client ID or secret is wrong',
    ])
    expect(page.faults).toEqual([])
  })

  it('are changed as they were read, without the secret unless another is typed, and removed after a question', async () => {
    serve({
      listIdentityProviders: () => ({ items: [provider()] }),
      changeIdentityProvider: () => provider(),
      removeIdentityProvider: () => undefined,
    })
    const page = await open(IdentityProviders)
    await page.press('Change')
    await page.press('People may sign in by it')
    await page.press('Save')
    const [first] = callsOf('changeIdentityProvider')
    expect(first!.body).toMatchObject({ revision: 3, enabled: false, name: 'Skerrow account' })
    expect(first!.body).not.toHaveProperty('clientSecret')
    await page.press('Change')
    await page.press(/^The provider gave no secret/)
    await page.press('Save')
    expect(callsOf('changeIdentityProvider').at(-1)!.body).toMatchObject({ clientSecret: null })
    await page.press('Remove')
    expect(callsOf('removeIdentityProvider')).toEqual([])
    await agree('Remove', page.settle)
    expect(callsOf('removeIdentityProvider')).toHaveLength(1)
  })
})

describe('one’s own accounts there', () => {
  beforeEach(() => vi.spyOn(window.location, 'assign').mockImplementation(() => undefined))

  it('are tied by signing in there, and untied after a question', async () => {
    serve({
      listOwnIdentities: () => ({ items: [identity()] }),
      listSignOnChoices: () => ({ items: [CHOICE, { handle: 'other', name: 'Other' }] }),
      startTying: () => ({ location: 'https://other.example/authorize' }),
      untieOwnIdentity: () => undefined,
    })
    const page = await open(OwnIdentities)
    expect(page.text()).toContain('found at the first sign-in')
    expect(page.text(), 'is tied already').not.toContain('Tie Skerrow account')
    await page.press('Tie Other')
    expect(callsOf('startTying')[0]!.body).toEqual({ provider: 'other', next: '/account' })
    expect(window.location.assign).toHaveBeenCalledWith('https://other.example/authorize')
    await page.press('Untie')
    await agree('Untie', page.settle)
    expect(callsOf('untieOwnIdentity')).toHaveLength(1)
    expect(page.faults).toEqual([])
  })

  it('are not spoken of where there is no provider', async () => {
    serve({ listOwnIdentities: () => ({ items: [] }), listSignOnChoices: () => ({ items: [] }) })
    expect((await open(OwnIdentities)).text()).toBe('')
  })
})

describe('a person’s accounts there', () => {
  it('are said beside the password, and untied by an administrator', async () => {
    const person = {
      ...sampled('showPerson'),
      id: 'abcdefghijkn',
      isTestLearner: false,
      closed: false,
      hasPassword: false,
    }
    serve({
      showPerson: () => person,
      listIdentities: () => ({ items: [identity({ gaveAdministrator: true })] }),
      untieIdentity: () => undefined,
    })
    const page = await open(PersonPage, { person: 'niamh' })
    expect(page.text()).toContain('● signs in by Skerrow account')
    expect(page.text()).toContain('administrator by its claims')
    await page.press('Untie')
    await agree('Untie', page.settle)
    expect(callsOf('untieIdentity')).toHaveLength(1)
    page.view.unmount()
    serve({ listIdentities: () => ({ items: [identity({ provider: { ...CHOICE, enabled: false } })] }) })
    const off = await open(PersonPage, { person: 'niamh' })
    expect(off.text()).toContain('▲ switched off')
    expect(off.text()).toContain('▲ no password yet')
  })
})

describe('confirming', () => {
  const asked = async (hasPassword: boolean) => {
    const session = sampled('whoAmI')
    serve({
      whoAmI: () => ({ ...session, signedInBy: CHOICE, person: { ...session.person, hasPassword } }),
      startConfirming: () => ({ location: 'https://accounts.skerrow.example/authorize' }),
    })
    await loadSession()
    const page = await open(ConfirmPassword)
    const given = askPassword()
    await page.settle()
    return { page, given }
  }

  it('is done at the provider in a window of its own; what waits goes on when that one says so', async () => {
    const opened = { location: { href: '' }, close: vi.fn() }
    vi.spyOn(window, 'open').mockReturnValue(opened as never)
    const { page, given } = await asked(false)
    expect(page.text()).not.toContain('Password')
    await page.press('Sign in with Skerrow account again')
    expect(callsOf('startConfirming')[0]!.body).toEqual({ provider: 'skerrow', next: '/confirmed' })
    expect(opened.location.href).toBe('https://accounts.skerrow.example/authorize')
    tellConfirmed()
    expect(await given).toBe(true)
  })

  it('is refused in words, the window closed, and goes on by the password of who has one', async () => {
    const opened = { location: { href: '' }, close: vi.fn() }
    vi.spyOn(window, 'open').mockReturnValue(opened as never)
    const { page, given } = await asked(true)
    refuse('startConfirming', 'sign_on.provider_away')
    await page.press('Sign in with Skerrow account again')
    expect(opened.close).toHaveBeenCalled()
    expect(page.text()).toContain('does not answer as it should')
    serve({ confirmSession: () => undefined })
    await page.type('Or the password', 'kelp anchor')
    await page.press('Go on')
    expect(await given).toBe(true)
  })
})

it('Watch names who became an administrator by claims', async () => {
  const watch = { ...sampled('showWatch'), newAdministrators: [{ person: { id: 'abcdefghijkn', username: 't', fullName: 'Torvald' }, provider: 'Skerrow account', since: AT }] } // oxfmt-ignore
  serve({ showWatch: () => watch })
  expect((await open(Watch)).text()).toContain('Torvald is an administrator since')
})
