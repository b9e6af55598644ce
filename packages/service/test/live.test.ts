import type { ChangeEvent } from '@bathyscribe/contract'
import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { beforeAll, expect, it } from 'vitest'
import {
  KEY,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let assignment: string
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  assignment = (await publishDrill(academy, 'knotwork-drills')).id
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('bjarte', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
})

async function listen(who: Visitor): Promise<{ heard: ChangeEvent[]; stop: () => void }> {
  const abort = new AbortController()
  const response = await who.send('/api/events', { signal: abort.signal })
  const heard: ChangeEvent[] = []
  void (async () => {
    const decoder = new TextDecoder()
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>)
      for (const [, data] of decoder.decode(chunk).matchAll(/^data: (.*)$/gm))
        heard.push(JSON.parse(data!) as ChangeEvent)
  })().catch(() => undefined)
  return { heard, stop: () => abort.abort() }
}

it('a score is heard by its instructor and its learner, by no other learner, and never without a session', async () => {
  const [tomas, aino, bjarte] = [
    await listen(await academy.signIn('tomas')),
    await listen(await academy.signIn('aino')),
    await listen(await academy.signIn('bjarte')),
  ]
  expect((await academy.visitor().send('/api/events')).status).toBe(401)
  await new Promise((resolve) => setTimeout(resolve, 300))
  const resultId = (await openForm(await academy.signIn('aino'), assignment)).fields['lis_result_sourcedid']!
  await sendOutcome(
    { serviceUrl: `${academy.url}/lti/outcomes`, resultId, key: KEY, secret: SECRET },
    outcomeXml('replaceResult', resultId, '0.5'),
  )
  const limit = Date.now() + 5000
  while (!tomas.heard.some((change) => change.kind === 'score') && Date.now() < limit)
    await new Promise((resolve) => setTimeout(resolve, 25))
  await new Promise((resolve) => setTimeout(resolve, 200))
  expect(tomas.heard.map((change) => change.kind)).toContain('score')
  expect(aino.heard.map((change) => change.kind)).toContain('score')
  expect(bjarte.heard).toEqual([])
  for (const one of [tomas, aino, bjarte]) one.stop()
})
