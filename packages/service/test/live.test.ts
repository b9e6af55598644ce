import type { ChangeEvent } from '@bathyscribe/contract'
import { beforeAll, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import {
  openForm,
  publishDrill,
  registerKnotwork,
  sendScore,
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
  let begun = false
  void (async () => {
    const decoder = new TextDecoder()
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      begun = true
      for (const [, data] of decoder.decode(chunk).matchAll(/^data: (.*)$/gm))
        heard.push(JSON.parse(data!) as ChangeEvent)
    }
  })().catch(() => undefined)
  await eventually(() => expect(begun).toBe(true))
  return { heard, stop: () => abort.abort() }
}

it('a score is heard by its instructor and its learner, by no other learner, and never without a session', async () => {
  const [tomas, aino, bjarte] = [
    await listen(await academy.signIn('tomas')),
    await listen(await academy.signIn('aino')),
    await listen(await academy.signIn('bjarte')),
  ]
  expect((await academy.visitor().send('/api/events')).status).toBe(401)
  const resultId = (await openForm(await academy.signIn('aino'), assignment)).fields['lis_result_sourcedid']!
  await sendScore(academy, resultId, '0.5')
  for (const one of [tomas, aino]) await eventually(() => expect(one.heard.map(({ kind }) => kind)).toContain('score'))
  // Events come in their order: when what came later is there, what bjarte was not told of would be, too.
  await academy.admin.client.call('changeEnrolment', {
    params: { course: 'HYD-210', person: 'bjarte' },
    body: { state: 'dropped' },
  })
  await eventually(() => expect(bjarte.heard.map(({ kind }) => kind)).toContain('people'))
  expect(bjarte.heard.map(({ kind }) => kind)).not.toContain('score')
  for (const one of [tomas, aino, bjarte]) one.stop()
})
