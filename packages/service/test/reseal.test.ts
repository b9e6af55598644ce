import { copyFileSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { createOffice, OFFICE_CLIENT } from '@bathyscribe/practice-office'
import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { migrateRecords, resealSecrets, startService, type RunningService } from '@bathyscribe/service'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ensureKeyFile, readKeys } from '../src/keys/key-file.js'
import { SEALED_FOR } from '../src/records/key-mark.js'
import { SEALED_COLUMNS, SealedValues } from '../src/records/sealed-values.js'
import { closeAfterwards } from './closing.js'
import { cookieOf, KEY, openForm, openRecords, publishDrill, registerKnotwork, SECRET } from './harness.js'
import { launch13 } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
/** A copy of the key file, as a thief has it. */
let stolen: string
let keyFile: string
const known = { drill: '', resultId: '', column: '' }

beforeAll(async () => {
  at = await startScoring()
  const { academy } = at
  keyFile = academy.service.context.settings.keyFile
  stolen = join(keyFile, '../stolen.json')
  copyFileSync(keyFile, stolen)
  await registerKnotwork(academy)
  await academy.admin.client.call('rotateSecret', {
    params: { tool: 'knotwork-drills' },
    body: { sharedSecret: 'marlinspike-9-thimble', overlapHours: 24, launchesWith: 'old' },
  })
  const office = await createOffice()
  const url = await office.listen({ host: '127.0.0.1', port: 0 })
  closeAfterwards(() => office.close())
  const { clientId, clientSecret } = OFFICE_CLIENT
  const body = { url, tokenUrl: `${url}/token`, clientId, clientSecret }
  await academy.admin.client.call('setRecordsOffice', { body })
  known.drill = (await publishDrill(academy, 'knotwork-drills')).id
  known.resultId = (await openForm(at.aino, known.drill)).fields['lis_result_sourcedid']!
  known.column = await at.make('Kept')
  // A code that waits for its mail.
  await academy.query(
    `insert into sign_in_link (person_id, code_hash, code_sealed, made_at, expires_at, try_at) select id, 'x', $1, now(), now() + interval '1 day', now() + interval '1 day' from person where username = 'bo'`,
    [academy.service.context.keys.seal('a-code', SEALED_FOR.signInLink)],
  )
  // An identity provider's secret, and the ID token of a session that was begun by it.
  const { keys } = academy.service.context
  await academy.query(
    `insert into identity_provider (id, handle, name, issuer, client_id, secret_sealed, scopes, match, admits, enabled, created_at)
     values ('idp', 'idp', 'IdP', 'https://idp.example', 'c', $1, 'openid', 'email', 'known', false, now())`,
    [keys.seal('its secret', `${SEALED_FOR.identityProvider}idp`)],
  )
  await academy.query(
    `insert into session (id, token_hash, person_id, created_at, last_seen_at, expires_at, confirmed_at, user_agent, provider_id, id_token_sealed)
     select 'byidp', 'x', id, now(), now(), now() + interval '1 day', now(), '', 'idp', $1 from person where username = 'bo'`,
    [keys.seal('its token', SEALED_FOR.idToken)],
  )
})

const fileNow = (path = keyFile) =>
  JSON.parse(readFileSync(path, 'utf8')) as { current: string; keys: Record<string, string> }
const settings = () => at.academy.service.context.settings
const reseal = (how = { forget: false }) => resealSecrets(settings(), how)
const values = async () => new SealedValues((await openRecords(at.academy)).manager).all()

/** What a service must go on doing whatever key seals its secrets. */
async function works() {
  const { url, admin } = at.academy
  const target = { serviceUrl: `${url}/lti/outcomes`, resultId: known.resultId, key: KEY, secret: SECRET }
  expect((await sendOutcome(target, outcomeXml('replaceResult', known.resultId, '0.5'))).codeMajor).toBe('success')
  expect((await openForm(at.aino, known.drill)).fields['lis_result_sourcedid']).toBe(known.resultId)
  await launch13(at.aino, known.column, at.client)
  expect(await at.score(known.column, 'aino', 20)).toBe(204)
  const shown = await admin.client.call('revealSecret', { params: { tool: 'knotwork-drills' } })
  expect(shown.sharedSecret).toBe(SECRET)
  expect(await at.token(SCOPES_13.score)).toMatch(/^ey/)
}

describe('secrets that are sealed anew', () => {
  it('are those of every column that is called so', async () => {
    const columns = await at.academy.query<{ name: string }>(
      `select table_name || '.' || column_name as name from information_schema.columns where table_schema = current_schema and column_name like '%sealed'`,
    )
    expect(columns.map((one) => one.name).sort()).toEqual(SEALED_COLUMNS.map((one) => `${one.table}.${one.column}`).sort()) // oxfmt-ignore
  })

  let second: RunningService
  afterAll(() => second?.stop())

  it('cannot be opened by the key file of before, and the service goes on without being started anew', async () => {
    const { mode } = statSync(keyFile)
    const before = await values()
    expect(new Set(before.map((one) => one.column))).toEqual(
      new Set(SEALED_COLUMNS.map((one) => `${one.table}.${one.column}`)),
    )
    const done = await reseal()
    expect(done).toMatchObject({ newKey: 'k2', forgotten: [] })
    expect(Object.values(done.sealedAnew).reduce((sum, n) => sum + n)).toBe(before.length)
    expect(Object.keys(fileNow().keys)).toEqual(['k1', 'k2'])
    expect(fileNow().current).toBe('k2')
    expect(statSync(keyFile).mode).toBe(mode)
    const [thief, ours] = [readKeys(stolen), readKeys(keyFile)]
    for (const { sealed, about } of await values()) {
      expect(() => thief.unseal(sealed, about)).toThrow(/does not hold/)
      expect(ours.unseal(sealed, about)).not.toBe('')
    }
    await works()
  })

  it('are noted in the audit log, without what they are', async () => {
    const { items } = await at.academy.admin.client.call('listAudit', { query: { limit: 5 } })
    const entry = items.find((one) => one.action === 'reseal')
    expect(entry).toMatchObject({ via: 'server', person: null, after: { newKey: 'k2' } })
    expect(JSON.stringify(entry)).not.toContain(SECRET)
  })

  it('let a hint through that another process wrote under the key of before', async () => {
    const [old, now] = [readKeys(stolen), readKeys(keyFile)]
    expect(now.hintKeys).toHaveLength(2)
    expect(now.hintKeys[0]).not.toEqual(old.hintKeys[0])
    expect(now.hintKeys[1]).toEqual(old.hintKeys[0])
    expect(now.cookieKey).not.toBe(old.cookieKey)
  })

  it('are brought up where a process sealed under the key of before, and only then does that key go', async () => {
    expect((await reseal()).newKey).toBe('k3')
    // A process that has not met the third key yet.
    const lagging = readKeys(keyFile)
    expect((await reseal()).newKey).toBe('k4')
    const [{ id } = { id: '' }] = await at.academy.query<{ id: string }>(`select id from registration where secret_sealed is not null`) // oxfmt-ignore
    await at.academy.query(`update registration set secret_sealed = $2 where id = $1`, [id, lagging.seal(SECRET, id)])
    const done = await reseal({ forget: true })
    expect(done).toEqual({
      newKey: null,
      sealedAnew: { 'registration.secret_sealed': 1 },
      forgotten: ['k2', 'k3'],
    })
    // Result identifiers hang on the first one.
    expect(Object.keys(fileNow().keys)).toEqual(['k1', 'k4'])
    await works()
    expect((await reseal({ forget: true })).forgotten).toEqual([])
  })

  it('are what a process finds that starts afterwards, and the session of before goes on there', async () => {
    second = await startService({ ...settings(), port: 0 })
    expect(await migrateRecords(settings())).toEqual([])
    const cookie = cookieOf(at.aino)
    const answer = await fetch(`${second.address}/lti/launch/${known.drill}`, { headers: { cookie } })
    expect(await answer.text()).toContain(known.resultId)
  })
})

describe('sealing anew is refused', () => {
  it('while somebody else is at it', async () => {
    const other = await openRecords(at.academy)
    const runner = other.createQueryRunner()
    await runner.query(`select pg_advisory_lock(hashtext('bathyscribe reseal'))`)
    const before = readFileSync(keyFile)
    await expect(reseal()).rejects.toThrow(/Somebody else is resealing/)
    expect(readFileSync(keyFile)).toEqual(before)
    await runner.query(`select pg_advisory_unlock_all()`)
    await runner.release()
  })

  it('by a key file of other records, and by records that are not up to date', async () => {
    const foreign = join(keyFile, '../foreign.json')
    ensureKeyFile(foreign)
    await expect(resealSecrets({ ...settings(), keyFile: foreign }, { forget: false })).rejects.toThrow(
      /is not the one that these records were made with/,
    )
    expect(Object.keys(fileNow(foreign).keys)).toEqual(['k1'])
    await expect(resealSecrets({ ...settings(), databaseSchema: 'nowhere' }, { forget: false })).rejects.toThrow(
      /not up to date/,
    )
  })

  it('where one secret cannot be opened: no key is added, nothing is sealed, and the column is named', async () => {
    await at.academy.query(
      `insert into other_secret (id, registration_id, sealed, role, set_at) select 'stray', id, '\\x026b39', 'previous', now() from registration where slug = 'knotwork-drills'`,
    )
    const [file, rows] = [readFileSync(keyFile), await values()]
    await expect(reseal()).rejects.toThrow(/A secret in other_secret\.sealed cannot be opened by this key file/)
    await expect(reseal({ forget: true })).rejects.toThrow(/other_secret\.sealed/)
    expect(readFileSync(keyFile)).toEqual(file)
    expect(await values()).toEqual(rows)
    await at.academy.query(`delete from other_secret where id = 'stray'`)
    await works()
  })
})
