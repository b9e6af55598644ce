import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { MADE_UP_DEVICES } from '@bathyscribe/yard/machine/browser'
import { openBrowser, PASSWORD, startDemo, visit } from './academy.js'
import { commandOf } from './command.js'

let demo: Awaited<ReturnType<typeof startDemo>>
let browser: Browser
beforeAll(async () => {
  demo = await startDemo('recording')
  browser = await openBrowser(MADE_UP_DEVICES)
})
afterAll(async () => {
  await browser?.close()
  await demo?.stop()
})

const SHUT = 'This page may use neither camera nor microphone (NotAllowedError).'
/** What a recording of a second is at the very least. */
const SOME_BYTES = 2000

it('a tool that records finds camera and microphone shut in its frame, is let use them, records there and returns its score', async () => {
  const { client } = await signIn(demo.url, 'ingrid', PASSWORD)
  const customParameters = { topic: 'Cloud and cover', observe: 'spoken' }
  const body = { title: 'The sky, spoken', tool: 'signal-mast', points: '5', customParameters, publish: true }
  const { id, resourceLinkId } = await client.call('createAssignment', { params: { course: 'HYD-210' }, body })

  // The tool wants to be opened by the teaching side first.
  const { page: ingrid } = await visit(browser, demo.url, 'ingrid')
  await ingrid.goto(`${demo.url}/courses/HYD-210/assignments/${id}/work`)
  await ingrid.frameLocator('iframe').frameLocator('iframe').getByText(SHUT).waitFor()

  const { page: niamh, complaints } = await visit(browser, demo.url, 'niamh')
  await niamh.goto(`${demo.url}/courses/HYD-210/assignments/${id}`)
  const sky = niamh.frameLocator('iframe').frameLocator('iframe')
  await sky.getByText(SHUT).waitFor()

  // The technologist allows it on the tool's page, where it says what it may use.
  await ingrid.goto(`${demo.url}/tools/signal-mast`)
  await ingrid.getByText('nothing of a person’s devices').waitFor()
  await ingrid.getByRole('button', { name: 'Change what is kept for assignments' }).click()
  await ingrid.getByLabel('camera').check()
  await ingrid.getByLabel('microphone').check()
  await ingrid.getByRole('button', { name: 'Save' }).first().click()
  await ingrid.getByText('camera, microphone').waitFor()

  // The browser itself says of both that they were shut, once; nothing comes after that.
  const violations = ['camera', 'microphone'].map(
    (one) => `Permissions policy violation: ${one} is not allowed in this document.`,
  )
  expect([...complaints].sort()).toEqual(violations)
  await niamh.reload()
  await sky.getByText('Ready.').waitFor()
  expect(await sky.locator('video').evaluate((one) => (one as HTMLVideoElement).videoWidth)).toBeGreaterThan(0)
  await sky.getByRole('button', { name: 'Record' }).click()
  await sky.getByText('Recording …').waitFor()
  // A second of sky.
  await sky.locator('video').evaluate((one) => {
    const video = one as HTMLVideoElement
    const until = video.currentTime + 1
    return new Promise<void>((resolve) =>
      video.addEventListener('timeupdate', () => video.currentTime >= until && resolve()),
    )
  })
  await sky.getByRole('button', { name: 'Stop' }).click()
  await sky.getByText('Recorded.').waitFor()
  await sky.getByRole('button', { name: 'Hand it in' }).click()
  await sky.getByText('Your score was sent.').waitFor()
  await niamh.getByText('5 of 5', { exact: true }).waitFor()
  const { recordings } = (await (await fetch(`${demo.signal}/practice/spoken?link=${resourceLinkId}`)).json()) as { recordings: { mediaType: string; bytes: number }[] } // oxfmt-ignore
  expect(recordings).toHaveLength(1)
  expect(recordings[0]!.mediaType).toMatch(/^video\//)
  expect(recordings[0]!.bytes).toBeGreaterThan(SOME_BYTES)
  expect([...complaints].sort()).toEqual(violations)
})

it('the same by command line: said, shown and taken back', async () => {
  const { token } = await (await signIn(demo.url, 'ingrid', PASSWORD)).client.call('createToken', { body: { name: 'e2e', scopes: ['read', 'teach', 'administer'] } }) // oxfmt-ignore
  const run = async (...args: string[]) => {
    const { status, stdout, stderr } = await commandOf({ url: demo.url, home: demo.folder }, args, '', { BATHYSCRIBE_TOKEN: token }) // oxfmt-ignore
    return { status, output: stdout + stderr }
  }
  const change = (...what: string[]) => run('tool', 'change', 'signal-mast', ...what.flatMap((one) => ['--frame-permission', one])) // oxfmt-ignore
  expect((await change('screen-sharing', 'clipboard')).output).toMatch(/in a frame +screen sharing, clipboard/)
  expect(await change('geolocation')).toMatchObject({ status: 2, output: expect.stringMatching(/Give one of camera/) })
  expect((await change('none')).output).toMatch(/in a frame +–/)
})
