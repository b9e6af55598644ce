import { outcomeAuthorization, outcomeXml } from '@bathyscribe/practice-tools'
import { expect, it } from 'vitest'
import { removePostgres, startPostgres, stopPostgres } from '@bathyscribe/yard/machine/postgres'
import { eventually } from '../../../test/eventually.js'
import { KEY, openForm, publishDrill, registerKnotwork, SECRET, startAcademy } from './harness.js'

const FOLDER = `.run/outage-postgres-${process.pid}`

it('PostgreSQL away in the middle: 503 with a code meanwhile, served again after it without a restart, nothing accepted lost', async () => {
  const { url } = await startPostgres(FOLDER)
  const academy = await startAcademy({ databaseUrl: url })
  try {
    await registerKnotwork(academy)
    const { id } = await publishDrill(academy, 'knotwork-drills')
    await academy.person('aino', { 'HYD-210': 'learner' })
    const aino = await academy.signIn('aino')
    const resultId = (await openForm(aino, id)).fields['lis_result_sourcedid']!
    const serviceUrl = `${academy.url}/lti/outcomes`
    const accepted: string[] = []
    const refusals = new Set<string>()
    let sending = true
    let n = 0
    const send = async () => {
      while (sending) {
        const score = `0.${String(++n).padStart(6, '0')}1`
        const body = outcomeXml('replaceResult', resultId, score)
        const authorization = outcomeAuthorization({ serviceUrl, key: KEY, secret: SECRET }, body)
        const response = await fetch(serviceUrl, {
          method: 'POST',
          headers: { 'content-type': 'application/xml', authorization },
          body,
        })
        const text = await response.text()
        if (response.status === 200 && text.includes('>success<')) accepted.push(score)
        else refusals.add(`${response.status} ${/service\.[a-z_]+/.exec(text)?.[0] ?? text}`)
        await new Promise((resolve) => setTimeout(resolve, 5))
      }
    }
    const senders = [send(), send(), send(), send()]
    await eventually(() => expect(accepted.length).toBeGreaterThan(10))
    stopPostgres(FOLDER)
    const api = await academy.admin.send('/api/courses')
    expect(api.status).toBe(503)
    expect(await api.json()).toMatchObject({ code: 'service.database_unavailable' })
    expect((await academy.visitor().send('/readyz')).status).toBe(503)
    expect((await academy.visitor().send('/healthz')).status).toBe(200)
    // Each sender has been refused a few times.
    const meanwhile = n
    await eventually(() => expect(n).toBeGreaterThan(meanwhile + 4 * senders.length))
    await startPostgres(FOLDER)
    const before = accepted.length
    await eventually(() => expect(accepted.length).toBeGreaterThan(before + 20))
    sending = false
    await Promise.all(senders)

    expect(accepted.length).toBeGreaterThan(before)
    expect([...refusals]).toEqual(['503 service.database_unavailable'])
    const kept = (await academy.query<{ sent: string }>(`select sent from score where outcome = 'accepted'`)).map(
      (row) => row.sent,
    )
    expect(accepted.filter((score) => !kept.includes(score))).toEqual([])
    expect((await academy.admin.send('/api/courses')).status).toBe(200)
  } finally {
    await academy.service.stop().catch(() => undefined)
    removePostgres(FOLDER)
  }
}, 180_000)
