import { describe, expect, it, vi } from 'vitest'
import Register from '../src/pages/Register.vue'
import ToolForm from '../src/pages/ToolForm.vue'
import IntakeConfirm from '../src/tool/IntakeConfirm.vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

const BOX = 'Paste whatever the vendor gave you'
const nothing = { kind: 'nothing', recognised: [], missing: [], remarks: [], beyond: [], pairs: [] } as const

describe('what a vendor handed over', () => {
  it('is read as one pastes it, without asking any address', async () => {
    serve({ readIntake: () => nothing })
    const page = await open(Register)
    await page.type(BOX, 'Key: skerrow-knots')
    expect(callsOf('readIntake')).toEqual([])
    await vi.waitFor(() => expect(callsOf('readIntake').map((one) => one.body)).toEqual([{ text: 'Key: skerrow-knots', follow: false }])) // oxfmt-ignore
  })

  it('is read with its addresses only when one asks for it', async () => {
    serve({ readIntake: () => nothing })
    const page = await open(Register)
    await page.type(BOX, 'https://tools.example/config.xml')
    await page.press('Read it, addresses too')
    expect(callsOf('readIntake').map((one) => (one.body as { follow: boolean }).follow)).toEqual([true])
  })

  it('shows what was read last, whichever answer comes first', async () => {
    const answers: (() => void)[] = []
    serve({
      readIntake: ({ body }) =>
        new Promise((resolve) => {
          answers.push(() => resolve({ ...nothing, kind: 'text', proposedName: body.text } as never))
        }),
    })
    const page = await open(Register)
    await page.type(BOX, 'First')
    await page.press('Read it, addresses too')
    await page.type(BOX, 'Second')
    await page.press('Read it, addresses too')
    answers[1]!()
    answers[0]!()
    await page.settle()
    expect(page.field('Name').value).toBe('Second')
  })

  it('says why it cannot be read, and keeps what was pasted', async () => {
    refuse('readIntake', 'outgoing.unreachable', 'tools.example')
    const page = await open(Register)
    await page.type(BOX, 'https://tools.example')
    await page.press('Read it, addresses too')
    expect(page.text()).toContain('tools.example')
    expect(page.field(BOX).value).toBe('https://tools.example')
  })
})

describe('what will be registered', () => {
  const read = (parts: object) =>
    sampled('readIntake', {
      ...nothing,
      kind: 'text',
      version: '1.1',
      proposedName: 'Knotwork Drills',
      fetched: null,
      customParameters: {},
      scopes: [],
      ...parts,
    })
  const recognised = [
    { field: 'consumerKey', word: 'Consumer key', value: 'skerrow-knots', source: 'line 1', removed: [] },
    {
      field: 'launchUrl',
      word: 'Launch address',
      value: 'https://tools.example/launch',
      source: 'line 2',
      removed: [],
    },
  ]

  it('asks only for what is missing, and registers when it is there', async () => {
    const missing = [{ field: 'sharedSecret', word: 'Shared secret' }]
    serve({ registerTool: () => ({ slug: 'knotwork-drills' }) })
    const done = vi.fn()
    const page = await open(IntakeConfirm, { read: read({ recognised, missing }), onDone: done })
    const button = () => [...document.querySelectorAll('button')].find((one) => /Register/.test(one.textContent))!
    expect(button().disabled).toBe(true)
    await page.type('Missing: Shared secret', ' halyard-3 ')
    expect(button().disabled).toBe(false)
    button().click()
    await page.settle()
    expect(callsOf('registerTool')[0]!.body).toMatchObject({
      name: 'Knotwork Drills',
      consumerKey: 'skerrow-knots',
      sharedSecret: 'halyard-3',
      launchUrl: 'https://tools.example/launch',
    })
    expect(done).toHaveBeenCalledWith('knotwork-drills')
  })

  it('sends the secret that belongs to the chosen pair, and no scores for a key without them', async () => {
    const pairs = [
      { consumerKey: 'for-scores', sharedSecret: 'one', purpose: 'assignments', returnsScores: true },
      { consumerKey: 'for-content', sharedSecret: 'two', purpose: 'content', returnsScores: false },
    ]
    serve({ registerTool: () => ({ slug: 'x' }) })
    const page = await open(IntakeConfirm, { read: read({ recognised: [recognised[1]], pairs }) })
    const radios = [...document.querySelectorAll<HTMLInputElement>('input[type=radio]')]
    radios[1]!.click()
    await page.settle()
    await page.press(/Register/)
    expect(callsOf('registerTool')[0]!.body).toMatchObject({ consumerKey: 'for-content', sharedSecret: 'two', features: [], note: 'This key: content' }) // oxfmt-ignore
  })
})

describe('the form of a tool', () => {
  it('takes away what was copied along unseen, and says so', async () => {
    const page = await open(ToolForm)
    await page.type('Shared secret', '\u200b halyard-3 "')
    page.field('Shared secret').dispatchEvent(new Event('blur'))
    await page.settle()
    expect(page.field('Shared secret').value).toBe('halyard-3')
    expect(page.text()).toContain('Spaces or invisible characters around it were removed.')
  })

  it('sends what belongs to LTI 1.1, and nothing of the other version', async () => {
    serve({ registerTool: () => ({ slug: 'drills' }) })
    const page = await open(ToolForm)
    await page.type('Name', 'Drills')
    await page.type('Consumer key', 'skerrow')
    await page.type('Shared secret', 'halyard')
    await page.type('Custom parameters', 'drill=bends\nno sign')
    expect(page.text()).toContain('Not read, because there is no “=” in it: no sign')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    const body = callsOf('registerTool')[0]!.body as Record<string, unknown>
    expect(body).toMatchObject({ name: 'Drills', consumerKey: 'skerrow', sharedSecret: 'halyard', signatureMethod: 'HMAC-SHA1', features: ['scores'], customParameters: { drill: 'bends' } }) // oxfmt-ignore
    expect(Object.keys(body)).not.toContain('redirectUris')
    expect(page.router.currentRoute.value.path).toBe('/tools/drills')
  })

  it('sends addresses of LTI 1.3, each redirect address for itself', async () => {
    serve({ registerTool: () => ({ slug: 'bench' }) })
    const page = await open(ToolForm)
    await page.type('Version', '1.3')
    await page.type('Name', 'Bench')
    await page.type('Login initiation address', 'https://tools.example/login')
    await page.type('Redirect addresses', 'https://tools.example/a\n https://tools.example/b')
    await page.type('Keyset address', 'https://tools.example/keys')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    const body = callsOf('registerTool')[0]!.body as Record<string, unknown>
    expect(body).toMatchObject({ version: '1.3', initiationUrl: 'https://tools.example/login', redirectUris: ['https://tools.example/a', 'https://tools.example/b'] }) // oxfmt-ignore
    expect(Object.keys(body)).not.toContain('signatureMethod')
  })

  it('asks why, where the same tool is there already, and sends the reason along', async () => {
    refuse('registerTool', 'tool.already_registered', 'Drills')
    const page = await open(ToolForm)
    await page.type('Name', 'Drills')
    const send = async () => {
      document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
      await page.settle()
    }
    await send()
    await page.type('Register it a second time anyway, because', 'a spare key')
    serve({ registerTool: () => ({ slug: 'drills-2' }) })
    await send()
    expect(callsOf('registerTool')[1]!.body).toMatchObject({ secondReason: 'a spare key' })
  })

  it('keeps what was typed when somebody changes the tool meanwhile, and sends the revision that was read', async () => {
    const tool = { slug: 'drills', name: 'Drills', version: '1.1', revision: 7, consumerKey: 'skerrow', features: ['scores'] } as const // oxfmt-ignore
    serve({ showTool: () => ({ ...tool, features: ['scores'] }) })
    const page = await open(ToolForm, { tool: 'drills' })
    expect(page.field('Name').value).toBe('Drills')
    await page.type('Name', 'Knot drills')
    refuse('changeTool', 'record.changed_meanwhile')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    expect(callsOf('changeTool')[0]!.body).toMatchObject({ revision: 7, name: 'Knot drills' })
    expect(page.field('Name').value).toBe('Knot drills')
  })
})
