import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, KEY, publishDrill, registerKnotwork, SECRET, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
})
const call = () => academy.admin.client
const register = (change: Record<string, unknown>) => codeOf(registerKnotwork(academy, change))

describe('registering a tool', () => {
  it.each([
    ['a blank behind the secret', { sharedSecret: `${SECRET} ` }, 'tool.secret_has_blanks'],
    ['a zero-width space before the secret', { sharedSecret: `\u200b${SECRET}` }, 'tool.secret_has_blanks'],
    ['a line end behind the key', { consumerKey: `${KEY}\n` }, 'tool.key_has_blanks'],
    ['an address without scheme', { launchUrl: 'tool.example/launch' }, 'address.malformed'],
    ['a script as address', { launchUrl: 'javascript:alert(1)' }, 'address.scheme'],
    ['the same key and address again', {}, 'tool.already_registered'],
    ['no name', { name: '  ' }, 'request.invalid'],
    ['a field nobody knows', { colour: 'blue' }, 'request.invalid'],
    ['a secret with U+0000', { sharedSecret: 'a\u0000b' }, 'request.invalid'],
  ])('with %s is refused by %3$s and keeps nothing', async (_, change, code) => {
    const before = (await call().call('listTools', {})).items.length
    expect(await register(change)).toBe(code)
    expect((await call().call('listTools', {})).items.length).toBe(before)
  })

  it('a second time with a reason gets a short name of its own', async () => {
    expect(await registerKnotwork(academy, { secondReason: 'Spare key' })).toMatchObject({ slug: 'knotwork-drills-2' })
  })

  it('five times at once under one name ends with five tools and five short names', async () => {
    const codes = await Promise.all(
      Array.from({ length: 5 }, (_, i) => register({ name: 'Plotting Table', consumerKey: `plot-${i}` })),
    )
    const names = (await call().call('listTools', { query: { search: 'Plotting' } })).items.map((tool) => tool.slug)
    expect(new Set(names).size).toBe(codes.filter((code) => code === undefined).length)
    expect(codes.filter((code) => code !== undefined).every((code) => code === 'tool.name_taken')).toBe(true)
  })

  it('as a draft needs no secret, but cannot be enabled without one', async () => {
    const draft = await registerKnotwork(academy, {
      name: 'Draft',
      consumerKey: 'draft',
      sharedSecret: undefined,
      enable: false,
    })
    expect(draft).toMatchObject({ state: 'draft', hasSecret: false })
    expect(await codeOf(call().call('setToolState', { params: { tool: 'draft' }, body: { state: 'enabled' } }))).toBe(
      'tool.secret_missing',
    )
  })
})

describe('a registration', () => {
  it('seals its secret: neither the records nor the audit log hold it, and another registration cannot open it', async () => {
    const [row] = await academy.query<{ sealed: Buffer }>(
      `select secret_sealed as sealed from registration where slug = 'knotwork-drills'`,
    )
    expect(row!.sealed.includes(SECRET)).toBe(false)
    expect(() => academy.service.context.keys.unseal(row!.sealed, 'another')).toThrow()
    const [audit] = await academy.query<{ all: string }>(
      `select string_agg(coalesce(before::text, '') || coalesce(after::text, ''), '') as all from audit_entry`,
    )
    expect(audit!.all).not.toContain(SECRET)
  })

  it('shows its secret on demand, and that it was shown stays in the audit log', async () => {
    expect(await call().call('revealSecret', { params: { tool: 'knotwork-drills' } })).toEqual({ sharedSecret: SECRET })
    const { items } = await call().call('listAudit', { query: { limit: 1 } })
    expect(items[0]).toMatchObject({
      action: 'show shared secret',
      subject: 'tool knotwork-drills',
      person: { username: 'ingrid' },
    })
  })

  it('changed by two people at once tells the later one, and overwrites nothing', async () => {
    const { revision } = await call().call('showTool', { params: { tool: 'knotwork-drills' } })
    const change = (name: string) =>
      codeOf(call().call('changeTool', { params: { tool: 'knotwork-drills' }, body: { revision, name } }))
    const codes = await Promise.all([change('First'), change('Second')])
    expect(codes.filter((code) => code === 'record.changed_meanwhile')).toHaveLength(1)
    const tool = await call().call('showTool', { params: { tool: 'knotwork-drills' } })
    expect(tool.name).toBe(codes[0] === undefined ? 'First' : 'Second')
    expect(tool.revision).toBe(revision + 1)
  })

  it('that is retired stays so', async () => {
    await registerKnotwork(academy, { name: 'Old', consumerKey: 'old' })
    const set = (state: 'enabled' | 'retired') =>
      call().call('setToolState', { params: { tool: 'old' }, body: { state } })
    expect(await set('retired')).toMatchObject({ state: 'retired' })
    expect(await codeOf(set('enabled'))).toBe('tool.retired')
    expect(await codeOf(publishDrill(academy, 'old', { title: 'x' }))).toBe('tool.retired')
  })

  it('is checked at its own end: reachable, framed, on time; and what is wrong is named', async () => {
    const good = await call().call('checkTool', { params: { tool: 'knotwork-drills' } })
    expect(good.verdict).toBe('pass')
    await registerKnotwork(academy, { name: 'Gone', consumerKey: 'gone', launchUrl: 'http://127.0.0.1:5/launch' })
    expect(await call().call('checkTool', { params: { tool: 'gone' } })).toMatchObject({ verdict: 'fail' })
    await registerKnotwork(academy, {
      name: 'Inside',
      consumerKey: 'inside',
      launchUrl: 'http://169.254.169.254/latest',
    })
    const inside = await call().call('checkTool', { params: { tool: 'inside' } })
    expect(inside.findings.find((finding) => finding.check === 'answer')).toMatchObject({
      verdict: 'fail',
      statement: expect.stringContaining('may not call') as string,
    })
  })

  it('is found by part of its name, key or address, wildcards taken as letters', async () => {
    const find = async (search: string) => (await call().call('listTools', { query: { search } })).items.length
    expect(await find('169.254')).toBe(1)
    expect(await find('%')).toBe(0)
    expect(await find('_')).toBe(0)
  })

  it('lists page by page, each tool once', async () => {
    const seen: string[] = []
    let cursor: string | undefined
    do {
      const page = await call().call('listTools', { query: { limit: 2, cursor } })
      seen.push(...page.items.map((tool) => tool.id))
      cursor = page.next ?? undefined
    } while (cursor)
    expect(new Set(seen).size).toBe(seen.length)
    expect(seen.length).toBe((await call().call('listTools', { query: { limit: 200 } })).items.length)
    expect(await codeOf(call().call('listTools', { query: { cursor: 'nonsense' } }))).toBe('request.invalid')
  })
})
