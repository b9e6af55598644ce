import { mkdtempSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { environmentName, readSettings, Settings, SettingsFault } from '@bathyscribe/service'
import { describe, expect, it } from 'vitest'
import { ensureKeyFile, readKeys } from '../src/keys/key-file.js'
import { checkHost, createGuard } from '../src/wire/guard.js'

const folder = mkdtempSync(join(tmpdir(), 'bathyscribe-settings-'))
const file = (content: unknown) => {
  const path = join(folder, `${Math.random()}.json`)
  writeFileSync(path, typeof content === 'string' ? content : JSON.stringify(content))
  return path
}
const good = {
  publicUrl: 'https://lti.skerrow.example/',
  databaseUrl: 'postgres://u:p@localhost/x',
  keyFile: '/etc/keys.json',
}
const faultsOf = (path: string | undefined, environment: NodeJS.ProcessEnv = {}) => {
  try {
    readSettings(path, environment)
    return []
  } catch (error) {
    return (error as SettingsFault).faults.map((fault) => fault.path)
  }
}

describe('the configuration', () => {
  it('is read from a file with the environment over it, and frozen', () => {
    const settings = readSettings(file(good), {
      BATHYSCRIBE_PORT: '9000',
      BATHYSCRIBE_OUTGOING_ALLOW: '127.0.0.0/8, ::1/128',
      PATH: '/bin',
    })
    expect(settings).toMatchObject({
      publicUrl: 'https://lti.skerrow.example',
      port: 9000,
      outgoingAllow: ['127.0.0.0/8', '::1/128'],
      wireDays: 180,
    })
    expect(Object.isFrozen(settings)).toBe(true)
  })

  it('names every fault at once, unknown keys too, and falls back on nothing', () => {
    const faults = faultsOf(
      file({ publicUrl: 'ftp://x', port: 70_000, colour: 'blue', outgoingAllow: ['everything'] }),
      { BATHYSCRIBE_PROT: '1' },
    )
    expect(faults.sort()).toEqual(
      ['BATHYSCRIBE_PROT', 'colour', 'databaseUrl', 'keyFile', 'outgoingAllow.0', 'port', 'publicUrl'].sort(),
    )
  })

  it.each(Object.keys(Settings.shape))(
    'takes no empty variable for %s: it is a fault, never some other value',
    (key) => {
      for (const empty of ['', ' '])
        expect(faultsOf(file(good), { [environmentName(key)]: empty })).toEqual([environmentName(key)])
    },
  )

  it.each([
    ['postgres://u:p@db.skerrow.example/x', false],
    ['postgres://u:p@db.skerrow.example/x?sslmode=prefer', false],
    ['postgres://u:p@db.skerrow.example/x?sslmode=no-verify', false],
    ['postgres://u:p@db.skerrow.example/x?sslmode=verify-full&sslmode=disable', false],
    ['postgres://u:p@db.skerrow.example/x?sslmode=require&uselibpqcompat=true', false],
    ['postgres://u:p@localhost/x?host=db.skerrow.example', false],
    ['postgres://u:p@127.0.0.1.skerrow.example/x', false],
    ['postgres://u:p@db.skerrow.example:port/x', false],
    ['postgres://u:p@db.skerrow.example/x?sslmode=verify-full', true],
    ['postgres://u:p@db.skerrow.example/x?sslmode=require', true],
    ['postgres://u:p@localhost:5433/x', true],
    ['postgres://u:p@[::1]/x', true],
    ['postgres:///x?host=/var/run/postgresql', true],
    ['postgres://%2Fvar%2Frun%2Fpostgresql/x', true],
  ])('lets records go over the network only where nobody can read them: %s, %s', (databaseUrl, taken) => {
    expect(faultsOf(file({ ...good, databaseUrl }))).toEqual(taken ? [] : ['databaseUrl'])
  })

  it.each([
    ['http://lti.skerrow.example', false],
    ['http://127.0.0.1.skerrow.example', false],
    ['http://localhost.skerrow.example', false],
    ['http://localhost:8080', true],
    ['http://127.0.0.1:8080', true],
    ['http://[::1]:8080', true],
  ])('lets passwords go by http within this machine only: %s, %s', (publicUrl, taken) => {
    expect(faultsOf(file({ ...good, publicUrl }))).toEqual(taken ? [] : ['publicUrl'])
    expect(faultsOf(file({ ...good, publicUrl, plainHttp: true }))).toEqual([])
  })

  it('lets records go readable where that was asked for', () => {
    const elsewhere = { ...good, databaseUrl: 'postgres://u:p@db/x' }
    expect(faultsOf(file({ ...elsewhere, plainDatabase: true }))).toEqual([])
    expect(faultsOf(file(elsewhere), { BATHYSCRIBE_PLAIN_DATABASE: 'true' })).toEqual([])
    expect(faultsOf(file({ ...elsewhere, plainDatabase: 'perhaps' }))).toEqual(['plainDatabase'])
    expect(faultsOf(file({ ...elsewhere, plainDatabase: true, soundOnPublish: 'never' }))).toEqual(['soundOnPublish'])
  })

  it.each(['{', '[]', '"x"'])('is refused when the file holds %s', (content) => {
    expect(faultsOf(file(content))).toHaveLength(1)
  })

  it('stands in docs/operating.md with every setting, and with no other', () => {
    const text = readFileSync(new URL('../../../docs/operating.md', import.meta.url), 'utf8')
    const documented = [...text.matchAll(/^\| `(\w+)` +\| `(BATHYSCRIBE_\w+)` +\|/gm)].map(
      ([, key, name]) => `${key} ${name}`,
    )
    expect(documented.sort()).toEqual(
      Object.keys(Settings.shape)
        .map((key) => `${key} ${environmentName(key)}`)
        .sort(),
    )
  })
})

describe('the key file', () => {
  it('is made once, readable by its owner alone, and opens what it sealed', () => {
    const path = join(folder, 'keys.json')
    ensureKeyFile(path)
    const first = readFileSync(path, 'utf8')
    ensureKeyFile(path)
    expect(readFileSync(path, 'utf8')).toBe(first)
    expect(statSync(path).mode & 0o777).toBe(0o600)
    const keys = readKeys(path)
    expect(keys.unseal(keys.seal('secret', 'a'), 'a')).toBe('secret')
    expect(() => keys.unseal(keys.seal('secret', 'a'), 'b')).toThrow()
    const bent = keys.seal('secret', 'a')
    bent[bent.length - 1]! ^= 1
    expect(() => keys.unseal(bent, 'a')).toThrow()
  })

  it('opens old secrets after a new key was put first, and keeps result identifiers valid', () => {
    const path = join(folder, 'rotated.json')
    ensureKeyFile(path)
    const before = readKeys(path)
    const sealed = before.seal('secret', 'a')
    const content = JSON.parse(readFileSync(path, 'utf8')) as { current: string; keys: Record<string, string> }
    writeFileSync(
      path,
      JSON.stringify({ current: 'k2', keys: { ...content.keys, k2: Buffer.alloc(32, 1).toString('base64') } }),
    )
    const after = readKeys(path)
    expect(after.unseal(sealed, 'a')).toBe('secret')
    expect(after.resultIdKey).toEqual(before.resultIdKey)
  })
})

describe('the guard of outgoing requests', () => {
  const guard = createGuard(['127.0.0.0/8'])
  it.each([
    ['127.0.0.1', true],
    ['::ffff:127.0.0.1', true],
    ['93.184.216.34', true],
    ['2606:2800:220:1::1', true],
    ['10.0.0.1', false],
    ['172.31.255.255', false],
    ['192.168.0.1', false],
    ['169.254.169.254', false],
    ['100.64.0.1', false],
    ['0.0.0.0', false],
    ['255.255.255.255', false],
    ['224.0.0.1', false],
    ['::1', false],
    ['::', false],
    ['fe80::1', false],
    ['fd00::1', false],
    ['::ffff:10.0.0.1', false],
    ['64:ff9b::a00:1', false],
    ['2002:a00:1::', false],
    ['3fff::1', false],
    ['3fff:fff::1', false],
    ['3fff:1000::1', true],
    ['not an address', false],
  ])('lets %s through: %s', (address, allowed) => {
    expect(guard(address)).toBe(allowed)
  })

  it.each([
    ['http://93.184.216.34:25/', false],
    ['https://tool.example:22/launch', false],
    ['http://tool.example:6667/', false],
    ['http://127.0.0.1:6000/', false],
    ['https://tool.example/', true],
    ['http://tool.example:80/', true],
    ['https://tool.example:8443/', true],
    ['http://127.0.0.1:9101/', true],
  ])('calls %s: %s, whatever host it is', (url, allowed) => {
    const check = () => checkHost(new URL(url), guard)
    if (allowed) expect(check).not.toThrow()
    else expect(check).toThrow(expect.objectContaining({ code: 'outgoing.forbidden_port' }))
  })
})
