import { readdirSync, readFileSync } from 'node:fs'
import { createSextant, createSignal } from '@bathyscribe/practice-tools'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { LINE_ITEM, SCORE } from './harness-13.js'
import { codeOf, publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'
import { startPractice, type Practice } from './practice-13.js'
import { decisive, runSounding } from './soundings.js'

let academy: TestAcademy
let sextant: Practice
let n = 0
beforeAll(async () => {
  academy = await startAcademy({ outgoingTimeoutMs: 12_000 })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await registerKnotwork(academy)
  sextant = await startPractice(academy, 'Sextant Bench', createSextant, [SCORE, LINE_ITEM], { target: '/bench' }) // oxfmt-ignore
})
afterAll(async () => {
  await academy.service.stop()
  // What a sounding started has to be gone with the service that started it.
  await eventually(() => expect(browsersOf()).toEqual([]))
})

const drill = async (tool: string, change: Record<string, unknown> = {}) =>
  (await publishDrill(academy, tool, { title: `Seen ${++n}`, ...change })).id
const see = (assignment: string) => runSounding(academy, assignment, { follower: 'browser', depth: 'plain' })
const faulty = (fault: string, change: Record<string, unknown> = {}) =>
  drill('knotwork-drills', { customParameters: { practice_fault: fault }, ...change })

/** Chromium processes below this test's own. */
function browsersOf(): string[] {
  return readdirSync('/proc').filter((pid) => {
    try {
      const parent = / ppid (\d+)|^PPid:\s*(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))
      const name = readFileSync(`/proc/${pid}/cmdline`, 'utf8')
      return /chromium/.test(name) && Number(parent?.[2]) === process.pid
    } catch {
      return false
    }
  })
}

describe('a browser that follows a launch', () => {
  it.each([
    ['LTI 1.1', () => drill('knotwork-drills')],
    ['LTI 1.3, in our frame without cookies of others', () => drill(sextant.slug)],
    ['LTI 1.3, in a window', () => drill(sextant.slug, { documentTarget: 'window' })],
  ])('proves an honest tool all the way, with pictures of what was to be seen: %s', async (_, make) => {
    const one = await see(await make())
    // What preflight says of these tests’ settings is no fault of the tool.
    const wrong = one.findings.filter(({ stage, verdict }) => stage !== 'settings' && /fail|warn/.test(verdict))
    expect(wrong).toEqual([])
    const taken = one.findings.filter((found) => found.check === 'taken')
    expect(taken).toHaveLength(2)
    for (const { pictureId } of taken) {
      const bytes = await academy.admin.client.picture(one.id, pictureId!)
      expect([...bytes.slice(0, 2)]).toEqual([0xff, 0xd8])
      expect(bytes.length).toBeGreaterThan(3000)
    }
    expect(one.findings.filter((found) => found.check === 'visible').map((found) => found.verdict)).toEqual(['pass', 'pass']) // oxfmt-ignore
    expect(one.findings.find((found) => found.stage === 'gradebook')!.verdict).toBe('pass')
  })

  it.each([
    ['blank_page', 'launch_instructor', /stays empty/],
    ['login_page', 'launch_instructor', /asks people to sign in/],
    ['says_error', 'launch_instructor', /reads like an error/],
    ['refuses_frames', 'launch_instructor', /refuses frames/],
    ['endless_script', 'launch_instructor', /script of the tool’s page never ends/],
    ['opens_windows', 'launch_instructor', /opens windows that browsers block/],
    ['script_fails', 'launch_instructor', /script of the tool’s page fails/],
    ['redirects_forever', 'launch_instructor', /redirects too often/],
    ['redirects_private', 'launch_instructor', /leads on to http:\/\/10\.1\.2\.3/],
    ['breaks_off', 'launch_instructor', /broke the connection off/],
    ['streams_forever', 'launch_instructor', /larger than is read here|took too long/],
    ['many_cookies', 'launch_instructor', /cookies/],
    ['wrong_secret', 'launch_instructor', /shared secret is wrong/],
  ])('sees what is wrong where a tool does “%s”', async (fault, stage, cause) => {
    const one = await see(await faulty(fault))
    const told = one.findings.map((each) => `${each.stage} ${each.verdict} ${each.check}: ${each.statement}`).join('\n')
    const found = decisive({ findings: one.findings.filter(({ check }) => check !== 'content_chosen' && check !== 'frame_allowed') }) // oxfmt-ignore
    expect(found?.stage, told).toBe(stage)
    expect(found!.cause, told).toMatch(cause)
    expect(found!.remedy, told).toBeTruthy()
  })

  it('finds out that a page asks for camera and microphone while its frame has them shut, and nothing once they are open', async () => {
    const mast = await startPractice(academy, 'Signal Mast', createSignal, [SCORE, LINE_ITEM], { target: '/mast' })
    const customParameters = { topic: 'Cloud and cover', observe: 'spoken' }
    const shut = async (change: Record<string, unknown> = {}) =>
      (await see(await drill(mast.slug, { customParameters, ...change }))).findings.filter((one) => one.check === 'frame permissions') // oxfmt-ignore
    const found = await shut()
    // As instructor and as learner: the page is the same.
    expect(found.map((one) => [one.verdict, one.facts['permissions']])).toEqual([['warn', ['camera', 'microphone']], ['warn', ['camera', 'microphone']]]) // oxfmt-ignore
    expect(found[0]!.remedy).toContain(
      `tool change ${mast.slug} --frame-permission camera --frame-permission microphone`,
    )
    expect(await shut({ documentTarget: 'window' })).toEqual([])
    const params = { tool: mast.slug }
    const { revision } = await academy.admin.client.call('showTool', { params })
    await academy.admin.client.call('changeTool', { params, body: { revision, framePermissions: ['camera'] } })
    expect((await shut()).map((one) => one.facts['permissions'])).toEqual([['microphone'], ['microphone']])
    await academy.admin.client.call('changeTool', { params, body: { revision: revision + 1, framePermissions: ['camera', 'microphone'] } }) // oxfmt-ignore
    expect(await shut()).toEqual([])
  })

  it('is kept out of private networks by the same guard as the service', async () => {
    const one = await see(await faulty('redirects_private', { documentTarget: 'window' }))
    expect(decisive(one)).toMatchObject({
      stage: 'launch_instructor',
      cause: expect.stringMatching(/may not call/) as string,
    })
  })

  it('a tool that refuses frames is shown in a window all the same', async () => {
    const one = await see(await faulty('refuses_frames', { documentTarget: 'window' }))
    expect(one.findings.filter((found) => found.verdict === 'fail')).toEqual([])
  })

  it('shows pictures to those who may see the sounding, and to nobody else', async () => {
    const one = await see(await drill('knotwork-drills'))
    const { pictureId } = one.findings.find((found) => found.pictureId !== null)!
    await academy.person('niamh', { 'HYD-210': 'learner' })
    const niamh = await academy.signIn('niamh')
    expect(await codeOf(niamh.client.picture(one.id, pictureId!))).toBe('access.denied')
    expect(await codeOf(academy.admin.client.picture(one.id, 'nosuchpicture'))).toBe('sounding.no_picture')
    const other = await see(await drill('knotwork-drills'))
    expect(await codeOf(academy.admin.client.picture(other.id, pictureId!))).toBe('sounding.no_picture')
  })
})

describe('without a browser', () => {
  it('a sounding that wants one is refused, and says what to do', async () => {
    const poor = await startAcademy({ browser: 'none' })
    await registerKnotwork(poor)
    await poor.person('tomas', { 'HYD-210': 'instructor' })
    const assignment = (await publishDrill(poor, 'knotwork-drills', { title: 'Unseen' })).id
    const call = (follower: 'browser') =>
      codeOf(poor.admin.client.call('runSounding', { params: { assignment }, body: { follower } }))
    expect(await call('browser')).toBe('sounding.no_browser')
    expect(await codeOf(poor.admin.client.call('startSweep', { body: { follower: 'browser' } }))).toBe('sounding.no_browser') // oxfmt-ignore
    expect((await runSounding(poor, assignment)).verdict).toBe('pass')
  })
})
