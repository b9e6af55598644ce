import { createSextant } from '@bathyscribe/practice-tools'
import { beforeAll, describe, it } from 'vitest'
import { LINE_ITEM, SCORE } from './harness-13.js'
import { misbehaving, passes, quick, TOOL_13 } from './misbehaviours.js'
import { registerPractice, startPractice, type Practice } from './practice-13.js'

const { at, drill, expectRow } = misbehaving()

describe('Sextant Bench, by LTI 1.3', () => {
  let sextant: Practice
  beforeAll(async () => {
    sextant = await startPractice(
      at.academy,
      'Sextant Bench',
      createSextant,
      [SCORE, LINE_ITEM],
      { target: '/bench' },
      { features: ['picker', 'scores'], pickerUrl: '/shelf' },
    )
    await registerPractice(at.academy, 'Sextant of another course', sextant.url, [SCORE], { target: '/bench' }, { secondReason: 'test' }) // oxfmt-ignore
  })

  it('honest passes', async () => expectRow(await drill(sextant.slug), passes('honest')))
  it.each(quick(TOOL_13))('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drill(sextant.slug)
    await sextant.faults(row[0])
    await expectRow(assignment, row)
    await sextant.faults()
  })
})
