import { CREDENTIALS, createChandlery, createSextant } from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { closeAfterwards } from './closing.js'
import { LINE_ITEM, SCORE } from './harness-13.js'
import { registerKnotwork } from './harness.js'
import { LINK_11, misbehaving, TOOL_13, WHOLE_TOOL, type Row } from './misbehaviours.js'
import { startPractice } from './practice-13.js'

/** So long the service waits; a slow tool takes far longer, an honest one far less even on a busy machine. */
const LIMIT_MS = 5000
const SLOW_MS = 30_000
const { at, drill, expectRow } = misbehaving({ outgoingTimeoutMs: LIMIT_MS, toolSlowMs: SLOW_MS })
const slow = (rows: readonly Row[]): Row => {
  const row = rows.find(([fault]) => fault === 'slow')
  expect(row).toBeDefined()
  return row!
}

describe('a tool that answers too slowly is named so', () => {
  beforeAll(() => registerKnotwork(at.academy))

  it('when one of its links is slow', async () =>
    expectRow(await drill('knotwork-drills', { customParameters: { practice_fault: 'slow' } }), slow(LINK_11)))

  it('when all of it is, by LTI 1.1', async () => {
    const port = await freePort()
    const url = `http://127.0.0.1:${port}`
    const app = await createChandlery({ publicUrl: url, slowMs: SLOW_MS, ...CREDENTIALS.chandlery })
    await app.listen({ host: '127.0.0.1', port })
    closeAfterwards(() => app.close())
    await at.academy.admin.client.call('registerTool', {
      body: { name: 'Chandlery Shelf', launchUrl: `${url}/launch`, disclosure: 'opaque', ...CREDENTIALS.chandlery },
    })
    const assignment = await drill('chandlery-shelf', { title: 'Chandlery Shelf' })
    await fetch(`${url}/practice`, { method: 'POST', body: new URLSearchParams({ faults: 'slow' }) })
    await expectRow(assignment, slow(WHOLE_TOOL))
  })

  it('when all of it is, by LTI 1.3', async () => {
    const make = (options: { publicUrl: string }) => createSextant({ ...options, slowMs: SLOW_MS })
    const sextant = await startPractice(at.academy, 'Sextant Bench', make, [SCORE, LINE_ITEM], { target: '/bench' })
    const assignment = await drill(sextant.slug)
    await sextant.faults('slow')
    await expectRow(assignment, slow(TOOL_13))
  })
})
