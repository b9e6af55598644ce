import type { Tool } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { loadSession } from '../src/state/session.js'
import CourseCatalogue from '../src/course/CourseCatalogue.vue'
import ToolApproval from '../src/tool/ToolApproval.vue'
import ToolContent from '../src/tool/ToolContent.vue'
import ToolEnding from '../src/tool/ToolEnding.vue'
import ToolKeys from '../src/tool/ToolKeys.vue'
import ToolMove from '../src/tool/ToolMove.vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

const AT = '2026-11-02T10:00:00.000Z'
const REF = { id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' } as const
const OTHER = { id: 't2', slug: 'drills-2', name: 'Drills Annex', state: 'enabled' } as const
const tool = (more: Partial<Tool> = {}): Tool => ({
  ...sampled('showTool'),
  ...REF,
  ...{ version: '1.1' as const, revision: 4, proposal: null, asked: null, launchUrl: 'https://knots.example/launch' },
  ...{ scoresWhileSuspended: true, initiationUrl: null, course: null, disclosure: 'name' as const },
  ...more,
})
const as = async (siteRole: 'administrator' | 'none') => {
  serve({ whoAmI: () => { const whole = sampled('whoAmI'); return { ...whole, person: { ...whole.person, siteRole }, teaches: true } } }) // oxfmt-ignore
  await loadSession()
}
const said = () => [...document.querySelectorAll('button')].map((one) => one.textContent.trim()).filter(Boolean)
const buttons = () => said().filter((one) => !['Cancel', 'Suspend', 'Retire', 'Delete', 'Replace'].includes(one))
/** Presses the button of the dialog, which stands behind those of the page. */
async function agree(name: string, settle: () => Promise<void>) {
  const all = [...document.querySelectorAll('button')].filter((one) => one.textContent.trim() === name)
  all.at(-1)!.click()
  await settle()
}
beforeEach(() => as('administrator'))

describe('what a tool’s pages may use in a frame', () => {
  it('is said in words, changed by check boxes, and stays as it was when one cancels', async () => {
    const page = await open(ToolContent, { tool: tool({ framePermissions: ['camera'] }), canChange: true })
    expect(page.text()).toContain('In a frame it may use camera')
    await page.press('Change what is kept for assignments')
    const tick = async (label: string) => {
      page.field(label).click()
      await page.settle()
    }
    await tick('microphone')
    await page.press('Cancel')
    await page.press('Change what is kept for assignments')
    await tick('screen sharing')
    await tick('camera')
    await page.press('Save')
    expect(callsOf('changeTool').map(({ body }) => (body as Tool).framePermissions)).toEqual([['screen_sharing']])
    const shut = await open(ToolContent, { tool: tool({ framePermissions: [] }), canChange: false })
    expect(shut.text()).toContain('nothing of a person’s devices')
  })

  it('stands in the catalogue of a course, where it is opened in a frame', async () => {
    const [item] = sampled('searchCatalogue').items
    const of = (name: string, framed: boolean) => ({ ...item!, tool: { ...REF, id: name === 'Framed' ? 'abcdefghijkm' : 'abcdefghijkn', name }, features: [], framed, framePermissions: ['camera' as const, 'clipboard' as const] }) // oxfmt-ignore
    serve({ searchCatalogue: () => ({ items: [of('Framed', true), of('Windowed', false)], next: null }) })
    const page = await open(CourseCatalogue, { course: sampled('showCourse'), canChange: false })
    expect(page.text()).toContain('runs in a frame · may use camera, clipboard, to copy')
    expect(page.text().match(/may use/g)).toHaveLength(1)
  })
})

describe('keys over time', () => {
  const secret = (role: string, uses: number) => ({ id: role, role, setAt: AT, endsAt: role === 'previous' ? AT : null, uses, lastUsedAt: AT }) // oxfmt-ignore

  it('are rotated with the overlap that one says, and the new secret is shown this once', async () => {
    serve({ listToolKeys: () => ({ secrets: [secret('current', 9)], keyset: null }), rotateSecret: () => ({ sharedSecret: 'bowline-7-fid' }) }) // oxfmt-ignore
    const page = await open(ToolKeys, { tool: tool() })
    await page.press('Rotate the secret …')
    await page.type('The old one is taken for, hours', '24')
    await page.type('Launches are signed with', 'old')
    await page.press('Bring it in')
    expect(callsOf('rotateSecret')[0]!.body).toEqual({ overlapHours: 24, launchesWith: 'old' })
    expect(page.text()).toContain('bowline-7-fid')
    expect(page.text()).toContain('it is shown this once')
    expect(page.text()).not.toContain('Bring it in')
  })

  it('takes a secret that the vendor gave, and forgets it once it is in', async () => {
    serve({ listToolKeys: () => ({ secrets: [secret('current', 9)], keyset: null }), rotateSecret: () => ({ sharedSecret: null }) }) // oxfmt-ignore
    const page = await open(ToolKeys, { tool: tool() })
    await page.press('Rotate the secret …')
    await page.type('New secret', ' halyard-3 ')
    await page.press('Bring it in')
    expect(callsOf('rotateSecret')[0]!.body).toMatchObject({ sharedSecret: 'halyard-3', overlapHours: 72, launchesWith: 'new' }) // oxfmt-ignore
    await page.press('Rotate the secret …')
    expect(page.field('New secret').value).toBe('')
  })

  it('keeps what was typed where it is refused', async () => {
    serve({ listToolKeys: () => ({ secrets: [secret('current', 9)], keyset: null }) })
    refuse('rotateSecret', 'access.denied')
    const page = await open(ToolKeys, { tool: tool() })
    await page.press('Rotate the secret …')
    await page.type('New secret', 'halyard-3')
    await page.press('Bring it in')
    expect(page.field('New secret').value).toBe('halyard-3')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
  })

  it('can be ended before their time, but not the one that signs, and one is told how often it was used', async () => {
    serve({ listToolKeys: () => ({ secrets: [secret('current', 9), secret('previous', 31)], keyset: null }), endSecret: () => ({}) }) // oxfmt-ignore
    const page = await open(ToolKeys, { tool: tool() })
    // Its button, and that of the dialog behind it.
    expect(said().filter((one) => one === 'End it now')).toHaveLength(2)
    await page.press('End it now')
    expect(page.text()).toContain('It was used 31 times. Messages signed with it are refused from now on.')
    expect(callsOf('endSecret')).toEqual([])
    await agree('End it now', page.settle)
    await vi.waitFor(() => expect(callsOf('endSecret').map((one) => one.params['id'])).toEqual(['previous']))
  })

  it('of LTI 1.3 are the tool’s own: read when one wants, with what went wrong the last time', async () => {
    const keyset = { address: 'https://knots.example/keys', reads: 3, readAt: AT, failure: 'refused', keys: [{ kid: 'k1', bits: 2048, uses: 7, lastUsedAt: null }] } // oxfmt-ignore
    serve({ listToolKeys: () => ({ secrets: [], keyset }), readToolKeyset: () => ({}) })
    const page = await open(ToolKeys, { tool: tool({ version: '1.3' }) })
    expect(page.text()).toContain('The keyset could not be read: refused. Keys read before go on being used.')
    expect(page.text()).toContain('k1 2048 bits, used 7 times')
    expect(page.text()).not.toContain('Rotate the secret')
    await page.press('Read the keyset now')
    expect(callsOf('readToolKeyset')).toHaveLength(1)
  })
})

describe('a registration that waits', () => {
  const asked = {
    scopes: [
      { scope: 'https://purl.imsglobal.org/spec/lti-ags/scope/score', allows: 'send scores' },
      { scope: 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly', allows: 'read the roster' },
    ],
    ...{ unknownScopes: ['https://knots.example/other'], claims: ['name'], messages: [], domain: 'knots.example' },
    ...{ policyUrl: null, termsUrl: null, contacts: [] },
  }
  const waiting = () => tool({ state: 'waiting', version: '1.3', asked: { ...sampled('showTool').asked, ...asked } as Tool['asked'] }) // oxfmt-ignore

  it('is approved with what one grants of what it asks for', async () => {
    serve({ approveTool: () => tool() })
    const page = await open(ToolApproval, { tool: waiting() })
    expect(page.text()).toContain('It also asks for what is not given here: https://knots.example/other')
    document.getElementById(asked.scopes[1]!.scope)!.click()
    await page.settle()
    await page.type('It may see of people', 'opaque')
    await page.press('Approve and enable')
    expect(callsOf('approveTool')[0]!.body).toEqual({ revision: 4, scopes: [asked.scopes[0]!.scope], disclosure: 'opaque' }) // oxfmt-ignore
  })

  it('is refused after one was told what becomes of it', async () => {
    serve({ refuseTool: () => tool() })
    const page = await open(ToolApproval, { tool: waiting() })
    await page.press('Refuse')
    expect(page.text()).toContain('The registration goes out of sight; it can be restored for a while.')
    expect(callsOf('refuseTool')).toEqual([])
    await agree('Refuse', page.settle)
    await vi.waitFor(() => expect(callsOf('refuseTool')[0]?.body).toEqual({ revision: 4 }))
  })

  it('can be looked at by who is no administrator, and nothing more', async () => {
    await as('none')
    const page = await open(ToolApproval, { tool: waiting() })
    expect(page.text()).toContain('An administrator sees on Watch that it waits.')
    expect(said()).toEqual([])
    expect(document.querySelector<HTMLFieldSetElement>('fieldset')!.disabled).toBe(true)
  })

  it('that wants a change shows now beside proposed, and is taken over by its own call', async () => {
    serve({ acceptProposal: () => tool() })
    const differences = [{ what: 'launch address', now: 'https://knots.example/launch', proposed: 'https://ropes.example/launch' }] // oxfmt-ignore
    const proposal = { ...sampled('showTool').proposal, differences, metadata: { ...sampled('showTool').asked, ...asked } } as Tool['proposal'] // oxfmt-ignore
    const page = await open(ToolApproval, { tool: tool({ version: '1.3', proposal }) })
    expect(page.text()).toContain('launch address https://knots.example/launch https://ropes.example/launch')
    await page.press('Take the change over')
    expect(callsOf('acceptProposal')[0]!.body).toMatchObject({ revision: 4 })
    expect(callsOf('approveTool')).toEqual([])
  })
})

describe('the end of a registration', () => {
  const IMPACT = { assignments: 5, published: 3, menuEntries: 1, courses: [{ id: 'c1', code: 'HYD 210', title: 'Surveying' }], scores: 12, undoDays: 30 } // oxfmt-ignore
  beforeEach(() =>
    serve({
      showToolImpact: () => IMPACT,
      listReplacements: () => ({ items: [] }),
      listTools: () => ({ items: [REF, OTHER].map((one) => ({ ...sampled('showTool'), ...one, version: '1.1' })), next: null }), // oxfmt-ignore
      setToolState: () => tool(),
      deleteTool: () => ({}),
      restoreTool: () => tool(),
    }),
  )

  it.each([
    ['enabled', ['Suspend …', 'Replace …', 'Retire …', 'Delete …']],
    ['suspended', ['Enable', 'Replace …', 'Retire …', 'Delete …']],
    ['retired', ['Delete …']],
    ['waiting', ['Delete …']],
    ['deleted', ['Bring it back']],
  ] as const)('offers what can be done with one that is %s', async (state, offered) => {
    await open(ToolEnding, { tool: tool({ state }) })
    expect(buttons()).toEqual(offered)
  })

  it('offers no replacing to who is no administrator', async () => {
    await as('none')
    await open(ToolEnding, { tool: tool() })
    expect(buttons()).toEqual(['Suspend …', 'Retire …', 'Delete …'])
    expect(callsOf('listReplacements')).toEqual([])
  })

  it('says first what hangs on it; nothing is done before', async () => {
    const page = await open(ToolEnding, { tool: tool() })
    await page.press('Delete …')
    await vi.waitFor(() => expect(page.text()).toContain('3 published assignments, 2 drafts and 1 menu entry depend on it, in HYD 210. 12 results are in gradebooks; they stay whatever happens.')) // oxfmt-ignore
    expect(page.text()).toContain('It can be restored for 30 days.')
    expect(callsOf('deleteTool')).toEqual([])
    await agree('Delete', page.settle)
    await vi.waitFor(() => expect(callsOf('deleteTool')).toHaveLength(1))
  })

  it.each([true, false])('suspends with or without scores of work already done: %s', async (taken) => {
    const page = await open(ToolEnding, { tool: tool() })
    await page.press('Suspend …')
    await vi.waitFor(() => expect(page.text()).toContain('Scores of work already done are still taken'))
    if (!taken) {
      document.querySelector<HTMLInputElement>('#scores-too')!.click()
      await page.settle()
    }
    await agree('Suspend', page.settle)
    await vi.waitFor(() => expect(callsOf('setToolState')[0]?.body).toEqual({ state: 'suspended', scoresWhileSuspended: taken })) // oxfmt-ignore
  })

  it('replaces by another only when one was chosen and nothing bars it', async () => {
    const remark = { rule: 'version', field: 'tool', verdict: 'fail', statement: 'It knows no menu.', remedy: 'Choose another.', facts: {} } // oxfmt-ignore
    const course = { id: 'c1', code: 'HYD 210', title: 'Surveying' }
    const counts = {
      assignments: 3,
      published: 3,
      counted: 3,
      menuEntries: 1,
      unitItems: 0,
      results: 9,
      ownAddresses: 0,
    }
    const preview = { remarks: [remark], courses: [{ course, ...counts }] }
    serve({ previewReplacement: () => ({ ...sampled('previewReplacement'), ...preview }), replaceTool: () => ({}) })
    const page = await open(ToolEnding, { tool: tool() })
    await page.press('Replace …')
    const ok = () => [...document.querySelectorAll<HTMLButtonElement>('button')].filter((one) => one.textContent.trim() === 'Replace').at(-1)! // oxfmt-ignore
    await vi.waitFor(() => expect(document.querySelector('#replace-with option')).not.toBeNull())
    expect([...document.querySelectorAll('#replace-with option')].map((one) => one.textContent.trim())).toEqual([
      'Drills Annex (LTI 1.1)',
    ])
    expect(ok().disabled).toBe(true)
    await page.type('Every link moves to', 't2')
    await vi.waitFor(() => expect(page.text()).toContain('It knows no menu.'))
    expect(ok().disabled).toBe(true)
    serve({ previewReplacement: () => ({ ...sampled('previewReplacement'), ...preview, remarks: [] }) })
    await page.type('Of', 'c1')
    await vi.waitFor(() => expect(ok().disabled).toBe(false))
    expect(page.text()).toContain('4 links would move.')
    await agree('Replace', page.settle)
    await vi.waitFor(() => expect(callsOf('replaceTool')[0]?.body).toEqual({ with: 't2', course: 'c1' }))
  })

  it('is taken back, once', async () => {
    const past = { id: 'r1', from: REF, to: OTHER, course: null, at: AT, still: 3, undoneAt: null }
    serve({
      listReplacements: () => ({ items: [{ ...sampled('listReplacements').items[0], ...past }, { ...sampled('listReplacements').items[0], ...past, id: 'r0', undoneAt: AT }] }), // oxfmt-ignore
      undoReplacement: () => ({}),
    })
    const page = await open(ToolEnding, { tool: tool() })
    expect(said().filter((one) => one === 'Take that back')).toHaveLength(1)
    await page.press('Take that back')
    expect(callsOf('undoReplacement').map((one) => one.params['id'])).toEqual(['r1'])
  })
})

describe('a tool that moves', () => {
  const moved = (n: number) => ({
    ...sampled('previewAddressMove'),
    ...{ registration: [], addresses: n, staying: 2, remarks: [], courses: [] },
    links: Array.from({ length: Math.min(n, 8) }, (_, i) => ({ ...sampled('previewAddressMove', {}, 3).links[0], title: `Drill ${i}`, course: { id: 'c1', code: 'HYD 210', title: 'S' }, before: 'https://knots.example/a', after: `https://ropes.example/${i}` })), // oxfmt-ignore
  })
  beforeEach(() =>
    serve({
      showToolImpact: () => ({ ...sampled('showToolImpact'), courses: [] }),
      listAddressMoves: () => ({ items: [] }),
      previewAddressMove: () => moved(11),
      moveAddresses: () => ({}),
    }),
  )
  const ok = () => [...document.querySelectorAll<HTMLButtonElement>('button')].filter((one) => one.textContent.trim() === 'Move them').at(-1)! // oxfmt-ignore

  it('is looked at first, from its own origin on, and moved when one says so', async () => {
    const page = await open(ToolMove, { tool: tool() })
    await page.press('Move addresses …')
    await vi.waitFor(() => expect(page.field('What begins with').value).toBe('https://knots.example'))
    expect(callsOf('previewAddressMove')).toEqual([])
    expect(ok().disabled).toBe(true)
    await page.type('is to begin with', 'https://ropes.example')
    await vi.waitFor(() => expect(page.text()).toContain('11 addresses would move'))
    expect(page.text()).toContain('and 3 more')
    expect(page.text()).toContain('2 addresses of links begin otherwise and would stay.')
    expect(ok().disabled).toBe(false)
    await agree('Move them', page.settle)
    await vi.waitFor(() => expect(callsOf('moveAddresses')[0]?.body).toEqual({ from: 'https://knots.example', to: 'https://ropes.example' })) // oxfmt-ignore
  })

  it('asks nothing of half an address, and says what is wrong with a whole one', async () => {
    refuse('previewAddressMove', 'request.invalid', 'an address with a password')
    const page = await open(ToolMove, { tool: tool() })
    await page.press('Move addresses …')
    await page.type('is to begin with', 'ropes')
    expect(callsOf('previewAddressMove')).toEqual([])
    await page.type('is to begin with', 'https://a:b@ropes.example')
    await vi.waitFor(() => expect(page.text()).toContain('an address with a password'))
    expect(ok().disabled).toBe(true)
  })

  it('is taken back', async () => {
    const past = { id: 'm1', from: 'https://knots.example', to: 'https://ropes.example', addresses: 4, course: null, at: AT, undoneAt: null } // oxfmt-ignore
    serve({ listAddressMoves: () => ({ items: [{ ...sampled('listAddressMoves', {}, 3).items[0], ...past }] }), undoAddressMove: () => ({}) }) // oxfmt-ignore
    const page = await open(ToolMove, { tool: tool() })
    expect(page.text()).toContain(
      '4 addresses of all courses moved from https://knots.example to https://ropes.example',
    )
    await page.press('Take that back')
    expect(callsOf('undoAddressMove')[0]!.params).toMatchObject({ id: 'm1' })
  })
})
