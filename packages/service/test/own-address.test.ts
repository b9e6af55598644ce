import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'
import { runSounding } from './soundings.js'

const BEFORE = 'https://learn.old-skerrow.example'
let academy: TestAcademy
let origin: string
/** A tool that still knows us by an earlier address, and says so. */
const tool = createServer((_, response) =>
  response
    .writeHead(401, { 'content-type': 'text/html' })
    .end(`<p>Scores go to ${BEFORE}/lti/outcomes: another platform.</p>`),
)
beforeAll(async () => {
  academy = await startAcademy()
  await new Promise<void>((resolve) => tool.listen(0, '127.0.0.1', resolve))
  origin = `http://127.0.0.1:${(tool.address() as AddressInfo).port}`
  await academy.person('tomas', { 'HYD-210': 'instructor' })
})
afterAll(() => tool.close())
const watch = async () => (await academy.admin.client.call('showWatch', {})).ownAddress

describe('our own public address', () => {
  it('is noted at each start, and nothing is said as long as it is the same', async () => {
    expect(await academy.query(`select url from own_address`)).toEqual([{ url: academy.url }])
    expect(await watch()).toBeNull()
  })

  it('when it was changed is said to administrators for a while, and in what a tool objects to', async () => {
    await academy.query(
      `insert into own_address (url, first_at, last_at) values ($1, now() - interval '1 year', now() - interval '1 day')`,
      [BEFORE],
    )
    expect(await watch()).toMatchObject({ now: academy.url, before: BEFORE })
    const tomas = await academy.signIn('tomas')
    expect((await tomas.client.call('showWatch', {})).ownAddress).toBeNull()
    const { slug } = await registerKnotwork(academy, { launchUrl: `${origin}/launch` })
    const { id } = await publishDrill(academy, slug)
    const one = await runSounding(academy, id)
    expect([one.verdict, one.cause]).toEqual(['fail', expect.stringContaining(`names ${BEFORE}`)])
    await academy.query(`update own_address set first_at = now() - interval '61 days' where url = $1`, [academy.url])
    expect(await watch()).toBeNull()
  })
})
