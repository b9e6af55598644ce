import { createLantern, createSignal, createWatchlog } from '@bathyscribe/practice-tools'
import type { FastifyInstance } from 'fastify'
import { beforeAll, describe, expect, it } from 'vitest'
import { LINE_ITEM, SCORE } from './harness-13.js'
import { misbehaving, passes, SHARED_13 } from './misbehaviours.js'
import { startPractice, type Practice } from './practice-13.js'
import { runSounding } from './soundings.js'

const { at, drill, expectRow } = misbehaving()

describe.each<[string, (options: { publicUrl: string }) => Promise<FastifyInstance>, string]>([
  ['Watchlog Essays', createWatchlog, '/log'],
  ['Signal Mast', createSignal, '/mast'],
  ['Lantern Margins', createLantern, '/margins'],
])('%s, by LTI 1.3', (name, create, target) => {
  let tool: Practice
  beforeAll(async () => {
    tool = await startPractice(at.academy, name, create, [SCORE, LINE_ITEM], { target })
  })
  it('honest passes', async () => expectRow(await drill(tool.slug), passes('honest')))
  it.each(SHARED_13)('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drill(tool.slug)
    await tool.faults(row[0])
    await expectRow(assignment, row)
    await tool.faults()
  })
  it('its review is proven where it says that submissions can be looked at, and skipped otherwise', async () => {
    const one = await runSounding(at.academy, await drill(tool.slug))
    const verdict = name === 'Watchlog Essays' ? 'pass' : 'skipped'
    expect(one.findings.find((found) => found.stage === 'review')).toMatchObject({ verdict })
  })
})
