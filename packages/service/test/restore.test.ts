import { spawnSync } from 'node:child_process'
import { cpSync, copyFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { outcomeAuthorization, outcomeXml } from '@bathyscribe/practice-tools'
import { startService, type RunningService } from '@bathyscribe/service'
import { beforeAll, describe, expect, inject, it } from 'vitest'
import { postgresPrograms } from '@bathyscribe/yard/machine/postgres'
import { databaseOn, onServer } from '../../../test/template.js'
import { closeAfterwards } from './closing.js'
import { cookieOf, KEY, openForm, publishDrill, registerKnotwork, SECRET, sendFile } from './harness.js'
import { startScoring, type Scoring } from './scoring-13.js'

/** A service that is used, and another one that was brought back from its backup: a dump of the records, the key file, the folder of files. */
let at: Scoring
let restored: RunningService
const known = { token: '', old: '', resultId: '', column: '', access: '', file: '', marks: [] as string[] }

beforeAll(async () => {
  at = await startScoring()
  const { academy } = at
  await registerKnotwork(academy)
  known.old = (await publishDrill(academy, 'knotwork-drills')).id
  known.resultId = (await openForm(at.aino, known.old)).fields['lis_result_sourcedid']!
  expect((await outcome(academy.url, '0.64')).status).toBe(200)
  known.column = await at.make('Kept')
  expect(await at.score(known.column, 'aino', 30)).toBe(204)
  known.access = await at.token('https://purl.imsglobal.org/spec/lti-ags/scope/lineitem')
  const { client } = academy.admin
  ;({ token: known.token } = await client.call('createToken', {
    body: { name: 'backup', scopes: ['read', 'teach', 'administer'], expiresInDays: 1 },
  }))
  const content = 'Depths in metres. '.repeat(10_000)
  const uploaded = await sendFile(academy, { token: known.token, content, name: 'chart.txt' })
  known.file = ((await uploaded.json()) as { id: string }).id
  known.marks = (await client.call('showAssignment', { params: { assignment: known.old } })).proof.map(
    (one) => one.state,
  )

  const { settings } = academy.service.context
  const folder = mkdtempSync(join(tmpdir(), 'bathyscribe-restored-'))
  const dump = join(folder, 'records.dump')
  const run = (program: string, ...args: string[]) => {
    const { status, stderr } = spawnSync(join(postgresPrograms()!, program), args, { encoding: 'utf8' })
    expect([program, status, stderr]).toEqual([program, 0, ''])
  }
  run('pg_dump', '-Fc', '-f', dump, settings.databaseUrl)
  const name = `restored_${process.pid}_${Date.now()}`
  const server = inject('databaseUrl')
  await onServer(server, `create database ${name}`)
  run('pg_restore', '--exit-on-error', '-d', databaseOn(server, name), dump)
  copyFileSync(settings.keyFile, join(folder, 'keys.json'))
  cpSync(join(dirname(settings.keyFile), 'files'), join(folder, 'files'), { recursive: true })
  restored = await startService({
    ...settings,
    port: 0,
    databaseUrl: databaseOn(server, name),
    keyFile: join(folder, 'keys.json'),
    filesFolder: join(folder, 'files'),
  })
  closeAfterwards(async () => {
    await restored.stop()
    await onServer(server, `drop database ${name} with (force)`)
    rmSync(folder, { recursive: true, force: true })
  })
}, 240_000)

/** Signed for the address that tools know, whichever machine stands behind it now. */
async function outcome(address: string, score: string) {
  const body = outcomeXml('replaceResult', known.resultId, score)
  const target = { serviceUrl: `${at.academy.url}/lti/outcomes`, resultId: known.resultId, key: KEY, secret: SECRET }
  const headers = { 'content-type': 'application/xml', authorization: outcomeAuthorization(target, body) }
  const response = await fetch(`${address}/lti/outcomes`, { method: 'POST', headers, body })
  return { status: response.status, text: await response.text() }
}
async function api<T>(path: string, init: RequestInit = {}): Promise<T> {
  const headers = {
    authorization: `Bearer ${known.token}`,
    ...(init.body ? { 'content-type': 'application/json' } : {}),
  }
  const response = await fetch(`${restored.address}${path}`, { ...init, headers })
  expect([path, response.status]).toEqual([path, 200])
  return (await response.json()) as T
}

describe('a service that was brought back', () => {
  it('opens what was sealed: secrets of tools, and result identifiers that they hold', async () => {
    const shown = await api<{ sharedSecret: string }>('/api/tools/knotwork-drills/secret/reveal', {
      method: 'POST',
      body: '{}',
    })
    expect(shown.sharedSecret).toBe(SECRET)
    expect((await outcome(restored.address, '0.8')).text).toContain('>success<')
    const trail = await api<{ cell: { points: string }; items: { sent: string }[] }>(`/api/assignments/${known.old}/trail/aino`) // oxfmt-ignore
    expect(trail.items.map((one) => one.sent)).toEqual(['0.8', '0.64'])
    // The other machine heard nothing of it.
    expect((await at.cell(known.old, 'aino')).sent).toBe('0.64')
  })

  it('knows the sessions, tokens and keys of before', async () => {
    const cookie = cookieOf(at.aino)
    expect((await fetch(`${restored.address}/api/courses`, { headers: { cookie } })).status).toBe(200)
    const items = await fetch(at.service.replace(at.academy.url, restored.address) + '/lineitems', {
      headers: { authorization: `Bearer ${known.access}` },
    })
    expect(items.status).toBe(200)
    const keyset = async (address: string) => (await fetch(`${address}/lti/keyset`)).json()
    expect(await keyset(restored.address)).toEqual(await keyset(at.academy.url))
  })

  it('shows the proof and the files as they were', async () => {
    const { proof } = await api<{ proof: { state: string }[] }>(`/api/assignments/${known.old}`)
    expect(proof.map((one) => one.state)).toEqual(known.marks)
    expect(known.marks).toEqual(Array(6).fill('proven'))
    const content = await fetch(`${restored.address}/api/courses/HYD-210/files/${known.file}/content`, {
      headers: { authorization: `Bearer ${known.token}` },
    })
    expect(await content.text()).toBe('Depths in metres. '.repeat(10_000))
    expect(await (await fetch(`${restored.address}/readyz`)).status).toBe(200)
  })

  it('tells who changed what after it: transactions are numbered anew in it', async () => {
    const { revision } = await api<{ revision: number }>(`/api/assignments/${known.old}`)
    await api(`/api/assignments/${known.old}`, {
      method: 'PATCH',
      body: JSON.stringify({ launchUrl: 'http://127.0.0.1:9/moved', keepScores: true, revision }),
    })
    const { proof } = await api<{ proof: { state: string; change: { by: string; what: string } | null }[] }>(`/api/assignments/${known.old}`) // oxfmt-ignore
    expect(proof[3]).toMatchObject({ state: 'changed', change: { by: 'Ingrid Valesdottir', what: 'address' } })
  })
})
