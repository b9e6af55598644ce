import { request } from 'node:http'
import { connect } from 'node:net'
import { afterAll, describe, expect, it, vi } from 'vitest'
import { findChromium } from '../src/wire/browser/chromium.js'
import { createGuardedProxy, type ProxyAccess } from '../src/wire/browser/guarded-proxy.js'

const proxy = createGuardedProxy(() => true)
afterAll(() => proxy.close())
const get = ({ server }: ProxyAccess, headers: Record<string, string>) =>
  new Promise<number>((resolve, reject) => {
    const { hostname, port } = new URL(server)
    request({ hostname, port, path: 'http://127.0.0.1:9/', headers }, (answer) => resolve(answer.statusCode!))
      .on('error', reject)
      .end()
  })
const tunnel = ({ server }: ProxyAccess, header: string) =>
  new Promise<string>((resolve) => {
    const { hostname, port } = new URL(server)
    const socket = connect(Number(port), hostname, () => socket.write(`CONNECT 127.0.0.1:9 HTTP/1.1\r\n${header}\r\n`))
    let text = ''
    socket.on('data', (chunk) => (text += String(chunk)))
    socket.on('close', () => resolve(text.split('\r\n')[0]!))
  })

describe('the proxy of the browser', () => {
  it('serves the browser and no other program of the machine', async () => {
    const access = await proxy.address()
    const basic = (password: string) => `Basic ${Buffer.from(`${access.username}:${password}`).toString('base64')}`
    for (const headers of [{}, { 'proxy-authorization': basic('guessed') }, { 'proxy-authorization': 'Basic x' }])
      expect(await get(access, headers as Record<string, string>)).toBe(407)
    expect(await tunnel(access, '')).toContain('407')
    expect(await tunnel(access, `proxy-authorization: ${basic('guessed')}\r\n`)).toContain('407')
    // Who may is let through, to where nothing answers.
    await expect(get(access, { 'proxy-authorization': basic(access.password) })).rejects.toThrow()
    expect(await tunnel(access, `proxy-authorization: ${basic(access.password)}\r\n`)).toBe('')
  })
})

describe('Chromium', () => {
  const here = process.execPath
  it('is not run by root without a sandbox, unless that was said', () => {
    const uid = vi.spyOn(process, 'getuid')
    uid.mockReturnValue(0)
    expect(findChromium({ browser: here, browserSandbox: 'on' })).toMatchObject({
      reason: expect.stringContaining('root') as string,
    })
    expect(findChromium({ browser: here, browserSandbox: 'off' })).toEqual({ path: here })
    uid.mockReturnValue(1000)
    expect(findChromium({ browser: here, browserSandbox: 'on' })).toEqual({ path: here })
    uid.mockRestore()
  })
  it('that is not there is said by its reason', () => {
    expect(findChromium({ browser: 'none', browserSandbox: 'on' })).toMatchObject({
      reason: expect.stringContaining('none') as string,
    })
    expect(findChromium({ browser: '/nowhere/chromium', browserSandbox: 'on' })).toMatchObject({
      reason: expect.stringContaining('nowhere') as string,
    })
  })
})
