import { fork, type ChildProcess } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { createClient } from '@bathyscribe/contract'
import { writeResultId } from '@bathyscribe/core/lti1'
import { readKeys } from '@bathyscribe/service/keys'
import { signIn } from '../academy/browserless.js'
import type { Say } from '../machine/place.js'
import { freePort } from '../machine/ports.js'
import { startPostgres } from '../machine/postgres.js'
import { setupCodeOf, startStack, stopStack, type Running } from '../machine/stack.js'
import type { Setting } from './bench.js'
import { sceneOf13 } from './bench-13.js'

const LEARNERS = 200
const SIGNED_IN = 20
const PASSWORD = 'a-password-for-the-bench'

type Scene = Pick<Setting, 'client' | 'assignment' | 'cookies' | 'of13' | 'signing'>

/** Starts the product and what it is compared with, does the work, and ends all of it. */
export async function withSetting(
  folder: string,
  how: { seconds: number; rounds: number; messages: number; say: Say },
  work: (setting: Setting) => Promise<void>,
): Promise<void> {
  const running = await startStack({ folder, servicePort: 0, toolsPort: 0 })
  const children: ChildProcess[] = []
  const start = async (module: string, env: NodeJS.ProcessEnv): Promise<number> => {
    const child = fork(new URL(module, import.meta.url), { env: { ...process.env, ...env } })
    children.push(child)
    await new Promise((resolve) => child.once('message', resolve))
    return child.pid!
  }
  const keyFile = join(folder, 'keys.json')
  let scene: Scene | undefined
  try {
    const { url: databaseUrl, folder: postgresFolder } = await startPostgres(join(folder, 'postgres'))
    const barePort = await freePort()
    const bare = await start('../load/bare.js', { BARE_DATABASE_URL: databaseUrl, BARE_PORT: String(barePort) })
    scene = await setTheScene(running, folder, keyFile)
    const limitPort = await freePort()
    const settings = {
      databaseUrl,
      databaseSchema: 'public',
      keyFile,
      publicUrl: running.url,
      port: limitPort,
    }
    const limit = await start('./run-limit.js', { LIMIT_SETTINGS: JSON.stringify(settings) })
    const [postmaster = ''] = readFileSync(join(postgresFolder, 'data/postmaster.pid'), 'utf8').split('\n')
    await work({
      ...running,
      ...scene,
      ...how,
      databaseUrl,
      keyFile,
      bareUrl: `http://127.0.0.1:${barePort}`,
      limitUrl: `http://127.0.0.1:${limitPort}`,
      accounts: { server: { bare, limit, subject: running.pids[0] }, database: Number(postmaster) },
    })
  } finally {
    for (const child of children) child.kill()
    scene?.of13.stop()
    await stopStack(folder, { remove: true })
  }
}

/** A course of 200 learners with one assignment; twenty of them signed in. */
async function setTheScene({ url, knotwork }: Running, folder: string, keyFile: string): Promise<Scene> {
  await createClient({ baseUrl: url, headers: () => ({}) }).call('setUp', {
    body: { code: setupCodeOf(folder), username: 'ingrid', fullName: 'Ingrid', password: PASSWORD },
  })
  const { client } = await signIn(url, 'ingrid', PASSWORD)
  const signing = { key: 'bench', secret: 'secret-of-the-bench' }
  await client.call('createCourse', { body: { code: 'BEN 100', title: 'Bench' } })
  await client.call('registerTool', {
    body: {
      name: 'Bench',
      consumerKey: signing.key,
      sharedSecret: signing.secret,
      launchUrl: `${knotwork}/launch`,
      disclosure: 'name',
    },
  })
  const { id: assignment } = await client.call('createAssignment', {
    params: { course: 'BEN-100' },
    body: { title: 'Bench', tool: 'bench', points: '100', publish: true },
  })
  const learners: string[] = []
  for (let i = 0; i < LEARNERS; i++) {
    const { id } = await client.call('createPerson', {
      body: { username: `learner-${i}`, fullName: `Learner ${i}`, ...(i < SIGNED_IN && { password: PASSWORD }) },
    })
    await client.call('enrol', { params: { course: 'BEN-100' }, body: { person: id, role: 'learner' } })
    learners.push(id)
  }
  const cookies: string[] = []
  for (let i = 0; i < SIGNED_IN; i++) cookies.push(await cookieOf(url, `learner-${i}`))
  const { resultIdKey } = readKeys(keyFile)
  const resultIds = learners.map((personId) => writeResultId(resultIdKey, { linkId: assignment, personId }))
  return { client, assignment, cookies, of13: await sceneOf13(client), signing: { ...signing, url, resultIds } }
}

async function cookieOf(url: string, username: string): Promise<string> {
  const response = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ username, password: PASSWORD }),
  })
  const cookie = response.headers.getSetCookie().find((one) => one.startsWith('bathyscribe_session='))
  return cookie!.split(';')[0]!
}
