import {
  CREDENTIALS,
  createChandlery,
  createPlotting,
  HOSTILE_FAULTS,
  MISBEHAVIOURS,
  TOOL13_FAULTS,
  TOOL_FAULTS,
} from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { closeAfterwards } from './closing.js'
import { registerKnotwork } from './harness.js'
import {
  HOSTILE,
  LINK_11,
  misbehaving,
  passes,
  PICKERS_11,
  quick,
  TOOL_13,
  WHOLE_TOOL,
  type Row,
} from './misbehaviours.js'

const { at, drill, expectRow } = misbehaving()

it('every misbehaviour has its row, more than forty in all', () => {
  const named = (rows: Row[]) => new Set(rows.map(([fault]) => fault))
  expect(named(LINK_11)).toEqual(new Set(Object.keys(MISBEHAVIOURS)))
  expect(named(TOOL_13)).toEqual(new Set(Object.keys(TOOL13_FAULTS)))
  expect(named(WHOLE_TOOL)).toEqual(new Set(Object.keys(TOOL_FAULTS)))
  expect(named(HOSTILE)).toEqual(new Set(Object.keys(HOSTILE_FAULTS)))
  const failing = [...LINK_11, ...TOOL_13, ...WHOLE_TOOL, ...PICKERS_11].filter(([, , cause]) => cause)
  expect(failing.length).toBeGreaterThan(40)
})

describe('Knotwork Drills, by LTI 1.1', () => {
  beforeAll(async () => {
    await registerKnotwork(at.academy, {
      features: ['picker', 'scores'],
      pickerUrl: `${at.academy.knotwork}/shelf`,
    })
  })
  const practise = (faults: string) =>
    fetch(`${at.academy.knotwork}/practice`, { method: 'POST', body: new URLSearchParams({ faults }) })

  it('honest passes', async () => expectRow(await drill('knotwork-drills'), passes('honest')))
  it.each(quick(LINK_11))('a link that does “%s” ends at %s', async (...row) =>
    expectRow(await drill('knotwork-drills', { customParameters: { practice_fault: row[0] } }), row),
  )
  it.each(quick([...WHOLE_TOOL, ...PICKERS_11]))('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drill('knotwork-drills')
    await practise(row[0])
    await expectRow(assignment, row)
    await practise('')
  })
})

describe.each([
  ['Chandlery Shelf', createChandlery, CREDENTIALS.chandlery, '/launch', []],
  ['Plotting Table', createPlotting, CREDENTIALS.plotting, '/plot/running-fix', ['scores']],
] as const)('%s, by LTI 1.1', (name, create, credentials, path, features) => {
  const slug = name.toLowerCase().replace(' ', '-')
  let url: string
  const practise = (faults: string) =>
    fetch(`${url}/practice`, { method: 'POST', body: new URLSearchParams({ faults }) })
  // A title that the shelf knows; the table takes any. What returns no scores is not counted.
  const drillHere = () => drill(slug, { title: name, counted: (features as readonly string[]).includes('scores') })
  beforeAll(async () => {
    const port = await freePort()
    url = `http://127.0.0.1:${port}`
    const app = await create({ publicUrl: url, ...credentials })
    await app.listen({ host: '127.0.0.1', port })
    closeAfterwards(() => app.close())
    await at.academy.admin.client.call('registerTool', {
      body: {
        name,
        launchUrl: url + path,
        disclosure: 'opaque',
        features: [...features],
        soundingParameters: { practice_score: '0.645' },
        ...credentials,
      },
    })
  })

  it('honest passes', async () => expectRow(await drillHere(), passes('honest')))
  it.each(quick(WHOLE_TOOL))('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drillHere()
    await practise(row[0])
    await expectRow(assignment, row)
    await practise('')
  })
})
