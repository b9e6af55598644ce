import { fork } from 'node:child_process'
import { generateKeyPairSync } from 'node:crypto'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { createDatabase, Records } from '@bathyscribe/service/records'
import type { Client } from '@bathyscribe/contract'
import pg from 'pg'
import type { Rs256Job } from '../load/bare-rs256.js'
import { middle } from '../load/middle.js'
import type { Result, SceneOf13, Setting } from './bench.js'

const SCORE = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'
const KID = 'bench-key'
const REGISTRATIONS = 2000

/** A tool of LTI 1.3 in the bench's own hands: its keyset, with a count of how often it was asked for. */
export async function sceneOf13(client: Client): Promise<SceneOf13> {
  const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 })
  let reads = 0
  const keyset = createServer((_, response) => {
    reads++
    response.end(
      JSON.stringify({ keys: [{ ...publicKey.export({ format: 'jwk' }), kid: KID, alg: 'RS256', use: 'sig' }] }),
    )
  })
  await new Promise<void>((resolve) => keyset.listen(0, '127.0.0.1', resolve))
  const origin = `http://127.0.0.1:${(keyset.address() as AddressInfo).port}`
  const tool = await client.call('registerTool', {
    body: {
      name: 'Bench 1.3',
      version: '1.3',
      launchUrl: `${origin}/target`,
      initiationUrl: `${origin}/login`,
      redirectUris: [`${origin}/launch`],
      keysetUrl: `${origin}/keyset`,
      scopes: [SCORE],
      disclosure: 'name',
    },
  })
  const { id } = await client.call('createAssignment', {
    params: { course: 'BEN-100' },
    body: { title: 'Bench of 1.3', tool: tool.slug, points: '100', publish: true },
  })
  return {
    link: id,
    clientId: tool.clientId ?? '',
    redirectUri: `${origin}/launch`,
    scope: SCORE,
    kid: KID,
    pem: privateKey.export({ type: 'pkcs8', format: 'pem' }).toString(),
    keysetReads: () => reads,
    stop: () => keyset.close(),
  }
}

/** One process that signs, and verifies if asked to, for some seconds. */
export function bareRs256(job: Rs256Job): Promise<{ perSecond: number }> {
  return new Promise((resolve, reject) => {
    const child = fork(new URL('../load/bare-rs256.js', import.meta.url))
    child.once('message', (result) => {
      child.kill()
      resolve(result as { perSecond: number })
    })
    child.once('error', reject)
    child.send(job)
  })
}

/** Searches of the catalogue against a bare query of the same rows, both through one connection of this process. */
export async function catalogueSearch({ databaseUrl, rounds, say }: Setting): Promise<Result> {
  const database = createDatabase({ databaseUrl, databaseSchema: 'public', databaseConnections: 2 })
  await database.initialize()
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  try {
    await bare.query(
      `insert into registration (id, slug, name, likeness, description, state, consumer_key, signature_method, disclosure, document_target, launch_url, created_at, updated_at)
       select 'bench' || n, 'bench-tool-' || n, 'Tool number ' || n, 'toolnumber' || n, 'Exercises in subject ' || n % 40, 'enabled', 'key-' || n, 'HMAC-SHA1', 'name', 'frame',
         'https://tool.example/' || n, now(), now() from generate_series(1, $1::int) n`,
      [REGISTRATIONS],
    )
    await bare.query('analyze registration')
    const { rows } = await bare.query<{ id: string }>(`select id from course where code_key = 'BEN-100'`)
    const records = new Records(database.manager)
    const texts = Array.from({ length: 40 }, (_, i) => `subject ${i}`)
    const search = (text: string) => records.menus.catalogue(rows[0]!.id, { search: text, limit: 20 })
    const plain = (text: string) =>
      bare.query({
        name: 'plain',
        text: `select id, slug, name, state, version, description, features, document_target, placements, course_id, keys_per_course from registration
               where name ilike $1 or description ilike $1 order by lower(name), id limit 21`,
        values: [`%${text}%`],
      })
    const timed = async (run: (text: string) => Promise<unknown>) => {
      const started = performance.now()
      for (const text of texts) await run(text)
      return (performance.now() - started) / texts.length
    }
    await timed(search)
    await timed(plain)
    const bares: number[] = []
    const subjects: number[] = []
    for (let round = 0; round < Math.max(5, rounds); round++) {
      bares.push(await timed(plain))
      subjects.push(await timed(search))
    }
    const [bareMs, searchMs] = [middle(bares), middle(subjects)]
    say(`  catalogue-search: bare ${bareMs.toFixed(2)} ms, subject ${searchMs.toFixed(2)} ms`)
    // Written as the other ratios are: the larger the better, 1 is the limit of three times the bare query.
    return {
      name: 'catalogue-search',
      ratio: (3 * bareMs) / searchMs,
      floor: 1,
      detail: { bareMs, searchMs, times: searchMs / bareMs, registrations: REGISTRATIONS },
    }
  } finally {
    await bare.end()
    await database.destroy()
  }
}
