import type { PracticeSignOn } from '@bathyscribe/practice-sign-on'
import { subjectOf } from '@bathyscribe/practice-sign-on'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  browse,
  codeOf,
  csrfOf,
  openRecords,
  PASSWORD,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { answerThere, comeOut, signOn, withProvider } from './signing-on.js'

let academy: TestAcademy
let provider: PracticeSignOn
beforeAll(async () => {
  academy = await startAcademy()
  provider = await withProvider(academy)
  for (const name of ['niamh', 'tomas', 'eskil']) await academy.person(name, { 'HYD-210': 'learner' })
})

const change = async (body: Record<string, unknown>) => {
  const params = { provider: provider.handle }
  const { revision } = await academy.admin.client.call('showIdentityProvider', { params })
  return academy.admin.client.call('changeIdentityProvider', { params, body: { revision, ...body } })
}
const who = async (visitor: Visitor) => (await visitor.client.call('whoAmI', {})).person.username
const audited = (action: string) =>
  academy.query<{ subject: string; after: Record<string, unknown>; before: unknown }>(
    `select subject, after, before from audit_entry where action = $1 order by id desc limit 5`,
    [action],
  )
const identitiesOf = async (person: string) =>
  (await academy.admin.client.call('listIdentities', { params: { person } })).items

describe('who has an account', () => {
  it('finds the button, signs in there, and goes on where they wanted to', async () => {
    const visitor = academy.visitor()
    expect(await visitor.client.call('listSignOnChoices', {})).toEqual({
      items: [{ handle: 'skerrow', name: 'Skerrow account' }],
    })
    expect(await signOn(visitor, provider, 'niamh', { next: '/courses' })).toMatchObject({
      status: 303,
      location: '/courses',
    })
    expect(await visitor.client.call('whoAmI', {})).toMatchObject({
      person: { username: 'niamh' },
      signedInBy: { handle: 'skerrow', name: 'Skerrow account' },
    })
    expect((await visitor.client.call('listSessions', {})).items).toMatchObject([
      { current: true, by: 'Skerrow account' },
    ])
    expect(await identitiesOf('niamh')).toMatchObject([
      { subject: subjectOf({ username: 'niamh' }), tiedBy: 'match', gaveAdministrator: false },
    ])
    const [entry] = await audited('sign in')
    expect(entry).toMatchObject({ subject: 'person niamh', after: { provider: 'skerrow' } })
  })

  it('is known by the subject from then on, whatever becomes of the address', async () => {
    const { id } = await academy.admin.client.call('showPerson', { params: { person: 'niamh' } })
    await academy.admin.client.call('changePerson', {
      params: { person: id },
      body: { email: 'elsewhere@skerrow.example' },
    })
    const visitor = academy.visitor()
    await signOn(visitor, provider, 'niamh')
    expect(await who(visitor)).toBe('niamh')
  })

  it('keeps nothing of it in the browser but the session', async () => {
    const visitor = academy.visitor()
    await signOn(visitor, provider, 'niamh')
    expect([...visitor.cookies().keys()].filter((name) => name.includes('sign_on'))).toEqual([])
  })

  it('goes on to pages of ours only', async () => {
    for (const next of [
      'https://elsewhere.example/',
      '//elsewhere.example',
      '/\\elsewhere.example',
      'courses',
      '/a\r\nb',
    ])
      expect((await signOn(academy.visitor(), provider, 'niamh', { next })).location, next).toBe('/')
  })

  it('is refused where it is closed, and signs in again when it is open', async () => {
    const close = (closed: boolean) =>
      academy.admin.client.call('changePerson', { params: { person: 'niamh' }, body: { closed } })
    await close(true)
    expect((await signOn(academy.visitor(), provider, 'niamh')).says).toContain('This account is closed.')
    await close(false)
    expect((await signOn(academy.visitor(), provider, 'niamh')).status).toBe(303)
  })

  it('needs an address that the provider has verified', async () => {
    const out = await signOn(academy.visitor(), provider, 'eskil')
    expect(out).toMatchObject({
      status: 403,
      says: expect.stringContaining('has not verified your email address') as unknown,
    })
    expect(await identitiesOf('eskil')).toEqual([])
    expect((await audited('sign-on refused'))[0]).toMatchObject({
      subject: 'identity provider skerrow',
      after: { code: 'sign_on.email_unverified', subject: subjectOf({ username: 'eskil' }) },
    })
  })
})

describe('who is not known', () => {
  it('is told so, and no account is made', async () => {
    expect((await signOn(academy.visitor(), provider, 'sunniva')).says).toContain('There is no account here for you.')
    expect(await codeOf(academy.admin.client.call('showPerson', { params: { person: 'sunniva' } }))).toBe(
      'person.not_found',
    )
  })

  it('gets one where everybody is admitted: one, of two who come at once', async () => {
    await change({ admits: 'everybody' })
    await academy.admin.client.call('createPerson', { body: { username: 'sunniva', fullName: 'Sunniva Andersgard' } })
    const visitors = [academy.visitor(), academy.visitor(), academy.visitor()]
    const outs = await Promise.all(visitors.map((one) => signOn(one, provider, 'sunniva')))
    expect(outs.map(({ status }) => status)).toEqual([303, 303, 303])
    for (const visitor of visitors) expect(await who(visitor)).toBe('sunniva-2')
    const made = await academy.admin.client.call('showPerson', { params: { person: 'sunniva-2' } })
    expect(made).toMatchObject({
      fullName: 'Sunniva Brekkandoval',
      email: 'sunniva@skerrow.example',
      hasPassword: false,
      siteRole: 'none',
    })
    expect(await identitiesOf('sunniva-2')).toMatchObject([{ tiedBy: 'made' }])
    await change({ admits: 'known' })
    expect((await signOn(academy.visitor(), provider, 'sunniva')).status, 'is known now').toBe(303)
  })

  it('gets what another window of theirs has made in the very moment between two looks', async () => {
    await change({ admits: 'everybody' })
    const { id } = await academy.admin.client.call('showIdentityProvider', { params: { provider: 'skerrow' } })
    const subject = subjectOf({ username: 'torvald' })
    const first = (await openRecords(academy)).createQueryRunner()
    await first.startTransaction()
    // The first window holds the subject, as it does while it makes the account; nobody reads accounts meanwhile.
    await first.query(`select pg_advisory_xact_lock(hashtext('bathyscribe subject'), hashtext($1))`, [
      `${id} ${subject}`,
    ])
    await first.query(`lock table person in access exclusive mode`)
    await first.query(
      `insert into person (id, username, full_name, given_name, family_name, email, subject, site_role, is_test_learner, created_at)
       values ('madebyfirst', 'made.by.first', 'T', '', '', 'torvald@skerrow.example', 'made by first', 'none', false, now())`,
    )
    await first.query(
      `insert into identity (provider_id, subject, person_id, tied_by, tied_at, last_at) values ($1, $2, 'madebyfirst', 'made', now(), now())`,
      [id, subject],
    )
    const visitor = academy.visitor()
    const second = signOn(visitor, provider, 'torvald')
    await expect
      .poll(() =>
        first.query(
          `select 1 from pg_locks l join pg_stat_activity a using (pid) where not l.granted and a.datname = current_database()`,
        ),
      ) // oxfmt-ignore
      .not.toEqual([])
    await first.commitTransaction()
    await first.release()
    expect((await second).status).toBe(303)
    expect(await who(visitor)).toBe('made.by.first')
    await academy.admin.client.call('untieIdentity', { params: { person: 'made.by.first', provider: 'skerrow' } })
    await academy.admin.client.call('changePerson', { params: { person: 'made.by.first' }, body: { email: null } })
    await change({ admits: 'known' })
  })

  it('is not guessed at where two have the address', async () => {
    for (const username of ['torvald.a', 'torvald.b'])
      await academy.admin.client.call('createPerson', {
        body: { username, fullName: 'Torvald', email: 'Torvald@skerrow.example' },
      })
    expect((await signOn(academy.visitor(), provider, 'torvald')).says).toContain(
      'Several accounts here could be yours.',
    )
  })
})

describe('an administrator’s account', () => {
  it('is given to nobody by its address', async () => {
    await academy.admin.client.call('changePerson', {
      params: { person: 'ingrid' },
      body: { email: 'ingrid@skerrow.example' },
    })
    expect((await signOn(academy.visitor(), provider, 'ingrid')).says).toContain('This is an administrator’s account')
  })

  it('is tied by its owner, signed in, and signed in to by it from then on', async () => {
    const browser = browse(provider.issuer)
    const { location } = await academy.admin.client.call('startTying', {
      body: { provider: 'skerrow', next: '/account' },
    })
    const back = await answerThere(provider, location, 'ingrid', browser)
    expect(await comeOut(await academy.admin.send(back.pathname + back.search))).toMatchObject({
      status: 303,
      location: '/account',
    })
    expect(await identitiesOf('ingrid')).toMatchObject([{ tiedBy: 'person' }])
    const visitor = academy.visitor()
    await signOn(visitor, provider, 'ingrid', { browser })
    expect(await who(visitor)).toBe('ingrid')
  })

  it('comes by claims only as they are set, is told on Watch, and goes with them', async () => {
    const roleOf = async (person: string) =>
      (await academy.admin.client.call('showPerson', { params: { person } })).siteRole
    const told = async () => (await academy.admin.client.call('showWatch', {})).newAdministrators
    await academy.admin.client.call('changePerson', { params: { person: 'torvald.b' }, body: { email: null } })
    await signOn(academy.visitor(), provider, 'torvald')
    expect(await roleOf('torvald.a'), 'no rule, no role').toBe('none')
    await change({ administratorClaim: 'groups', administratorValue: 'technologists' })
    await signOn(academy.visitor(), provider, 'niamh')
    expect(await roleOf('niamh')).toBe('none')
    await signOn(academy.visitor(), provider, 'torvald')
    expect(await roleOf('torvald.a')).toBe('administrator')
    expect(await told()).toMatchObject([{ person: { username: 'torvald.a' }, provider: 'Skerrow account' }])
    expect((await audited('made administrator by sign-on'))[0]).toMatchObject({
      before: { siteRole: 'none' },
      after: { siteRole: 'administrator', claim: 'groups' },
    })
    expect((await identitiesOf('ingrid'))[0], 'who was one before owes it to no claim').toMatchObject({
      gaveAdministrator: false,
    })

    await change({ administratorClaim: 'groups', administratorValue: 'somebody else' })
    await signOn(academy.visitor(), provider, 'torvald')
    expect(await roleOf('torvald.a')).toBe('none')
    expect(await told()).toEqual([])
    await signOn(academy.visitor(), provider, 'ingrid')
    expect(await roleOf('ingrid'), 'given by people, taken by people').toBe('administrator')
  })

  it('that somebody gave by hand is not taken by a claim', async () => {
    await change({ administratorClaim: 'groups', administratorValue: 'technologists' })
    await signOn(academy.visitor(), provider, 'torvald')
    for (const siteRole of ['none', 'administrator'] as const)
      await academy.admin.client.call('changePerson', { params: { person: 'torvald.a' }, body: { siteRole } })
    await change({ administratorClaim: null, administratorValue: null })
    await signOn(academy.visitor(), provider, 'torvald')
    expect(await academy.admin.client.call('showPerson', { params: { person: 'torvald.a' } })).toMatchObject({
      siteRole: 'administrator',
    })
    await academy.admin.client.call('changePerson', { params: { person: 'torvald.a' }, body: { siteRole: 'none' } })
  })
})

describe('tying', () => {
  const tie = async (visitor: Visitor, account: string) => {
    const { location } = await visitor.client.call('startTying', { body: { provider: 'skerrow' } })
    const back = await answerThere(provider, location, account)
    return comeOut(await visitor.send(back.pathname + back.search))
  }

  it('takes no account that somebody else has, and one of each provider', async () => {
    const tomas = await academy.signIn('tomas')
    expect((await tie(tomas, 'niamh')).says).toContain('is tied to another account here')
    expect((await tie(tomas, 'tomas')).status).toBe(303)
    expect((await tie(tomas, 'tomas')).status, 'once more is no harm').toBe(303)
    expect((await tie(tomas, 'eskil')).says).toContain('Your account here is tied to another account')
  })

  it('is finished in the session that began it, and in no other', async () => {
    const eskil = await academy.signIn('eskil')
    const { location } = await eskil.client.call('startTying', { body: { provider: 'skerrow' } })
    const back = await answerThere(provider, location, 'sunniva')
    await eskil.client.call('signOut', {})
    await eskil.client.call('signIn', { body: { username: 'niamh', password: PASSWORD } })
    expect((await comeOut(await eskil.send(back.pathname + back.search))).says).toContain(
      'was not begun in this browser',
    )
    expect(await identitiesOf('niamh')).toHaveLength(1)
  })

  it('is undone by oneself, but not where nothing else is left', async () => {
    const tomas = await academy.signIn('tomas')
    const byIt = academy.visitor()
    await signOn(byIt, provider, 'tomas')
    await tomas.client.call('untieOwnIdentity', { params: { provider: 'skerrow' } })
    expect(await codeOf(byIt.client.call('whoAmI', {})), 'the session by it has ended').toBe('session.required')
    expect(await who(tomas)).toBe('tomas')
    expect(await codeOf(tomas.client.call('untieOwnIdentity', { params: { provider: 'skerrow' } }))).toBe(
      'sign_on.not_tied',
    )

    const made = academy.visitor()
    await signOn(made, provider, 'sunniva')
    await who(made)
    await academy.query(
      `update session set confirmed_at = now() where person_id = (select id from person where username = 'sunniva-2')`,
    )
    expect(await codeOf(made.client.call('untieOwnIdentity', { params: { provider: 'skerrow' } }))).toBe(
      'sign_on.last_way',
    )
    await academy.admin.client.call('untieIdentity', { params: { person: 'sunniva-2', provider: 'skerrow' } })
    expect(await identitiesOf('sunniva-2')).toEqual([])
  })

  it('is not begun from another site, nor by a token', async () => {
    const niamh = await academy.signIn('niamh')
    const post = (headers: Record<string, string>) =>
      niamh.send('/api/identities', {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...headers },
        body: '{"provider":"skerrow"}',
      })
    expect(await (await post({})).json()).toMatchObject({ code: 'session.csrf' })
    expect((await post({ 'x-csrf-token': await csrfOf(niamh) })).status).toBe(200)
  })
})

describe('signing out', () => {
  it('leads to the provider’s own page for it where the session came from there', async () => {
    const visitor = academy.visitor()
    await signOn(visitor, provider, 'niamh')
    await who(visitor)
    const { leaveAt } = await visitor.client.call('signOut', {})
    const page = new URL(leaveAt!)
    expect(page.origin).toBe(provider.issuer)
    expect(page.searchParams.get('post_logout_redirect_uri')).toBe(`${academy.url}/sign-in`)
    expect((await fetch(page)).status).toBe(200)
    expect(await (await academy.signIn('niamh')).client.call('signOut', {})).toEqual({ leaveAt: null })
  })

  it('there ends the sessions here that were begun by it', async () => {
    const browser = browse(provider.issuer)
    const [visitor, other] = [academy.visitor(), academy.visitor()]
    await signOn(visitor, provider, 'niamh', { browser })
    await signOn(other, provider, 'niamh')
    const page = await browser.send(`${provider.issuer}/session/end`)
    const secret = /name="xsrf" value="([^"]+)"/.exec(await page.text())![1]!
    await browser.send(`${provider.issuer}/session/end/confirm`, {
      method: 'POST',
      body: new URLSearchParams({ xsrf: secret, logout: 'yes' }),
    })
    await expect.poll(() => codeOf(visitor.client.call('whoAmI', {}))).toBe('session.required')
    expect(await who(other), 'another session there goes on').toBe('niamh')
    expect((await audited('signed out by provider'))[0]).toMatchObject({ after: { sessions: 1 } })
  })
})

describe('the provider', () => {
  it('signs by new keys, and people sign in', async () => {
    await provider.provider.rotate()
    expect((await signOn(academy.visitor(), provider, 'niamh')).status).toBe(303)
  })

  it('is away: people are told, and can sign in again once it is back', async () => {
    const visitor = academy.visitor()
    const begun = await visitor.send('/sign-on/skerrow')
    const back = await answerThere(provider, begun.headers.get('location')!, 'niamh')
    provider.provider.state.away = true
    const out = await comeOut(await visitor.send(back.pathname + back.search))
    expect(out).toMatchObject({
      status: 502,
      location: null,
      says: expect.stringContaining('does not answer as it should') as unknown,
    })
    provider.provider.state.away = false
    expect((await signOn(visitor, provider, 'niamh')).status).toBe(303)
  })

  it('that is switched off signs nobody in, ends its sessions, and is not shown', async () => {
    const visitor = academy.visitor()
    await signOn(visitor, provider, 'niamh')
    const begun = await academy.visitor().send('/sign-on/skerrow')
    expect(begun.status).toBe(303)
    await change({ enabled: false })
    expect(await codeOf(visitor.client.call('whoAmI', {}))).toBe('session.required')
    expect((await visitor.client.call('listSignOnChoices', {})).items).toEqual([])
    expect((await signOn(visitor, provider, 'niamh')).status).toBe(404)
    await change({ enabled: true })
    expect((await signOn(visitor, provider, 'niamh')).status).toBe(303)
  })
})
