import { existsSync } from 'node:fs'
import type { Browser, BrowserServer } from 'playwright-core'
import type { ProxyAccess } from './guarded-proxy.js'

/** The one without a window needs half the time for the same pages. */
const USUAL_PLACES = [
  '/usr/bin/chromium-headless-shell',
  '/usr/bin/chromium',
  '/usr/bin/chromium-browser',
  '/usr/lib/chromium/chromium',
]
const SWITCHES = [
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--disable-dev-shm-usage',
  '--force-webrtc-ip-handling-policy=disable_non_proxied_udp',
  // A tool's frame in a process of its own is now and then never announced to the driver, though it is drawn.
  '--disable-site-isolation-trials',
]
/** A browser grows with what it has seen; after so many launches a fresh one is begun. */
const FRESH_AFTER = 60
const IDLE_MS = 30_000

/** Where Chromium is, the path that is set or where Debian puts it; or why there is none to be used. */
export function findChromium({ browser, browserSandbox }: BrowserSettings): { path: string } | { reason: string } {
  if (browser === 'none') return { reason: '`browser` is set to none' }
  const path = (browser ? [browser] : USUAL_PLACES).find((one) => existsSync(one))
  if (path === undefined) return { reason: browser ? `there is nothing at ${browser}` : 'Chromium is not installed' }
  // A hole in a browser that is root is a hole in everything, the key file included.
  if (browserSandbox === 'on' && process.getuid?.() === 0)
    return {
      reason:
        'the service runs as root, for whom Chromium has no sandbox: run it as a user of its own, or set `browserSandbox` to off',
    }
  return { path }
}

export interface BrowserSettings {
  browser: string
  browserSandbox: 'on' | 'off'
}

/** One Chromium that is started when it is needed, ended when it is idle, and killed when it hangs. */
export class Chromium {
  private running: Promise<{ server: BrowserServer; browser: Browser }> | undefined
  private uses = 0
  private users = 0
  private idle: NodeJS.Timeout | undefined

  constructor(
    private readonly executablePath: string,
    private readonly proxy: () => Promise<ProxyAccess>,
    private readonly sandbox: boolean,
  ) {}

  /** Lends the browser. What is lent has to be given back. */
  async borrow(): Promise<{ browser: Browser; giveBack: (broken: boolean) => Promise<void> }> {
    clearTimeout(this.idle)
    if (this.uses >= FRESH_AFTER && this.users === 0) await this.end()
    this.users++
    this.uses++
    const mine = (this.running ??= this.start())
    try {
      const { browser } = await mine
      return {
        browser,
        giveBack: async (broken) => {
          this.users--
          if (broken || !browser.isConnected()) await this.end(mine)
          else if (this.users === 0) this.idle = setTimeout(() => void this.end(mine), IDLE_MS).unref()
        },
      }
    } catch (error) {
      this.users--
      if (this.running === mine) this.running = undefined
      throw error
    }
  }

  async end(which = this.running): Promise<void> {
    clearTimeout(this.idle)
    if (!which) return
    if (this.running === which) {
      this.running = undefined
      this.uses = 0
    }
    await which.then(({ server }) => server.kill()).catch(() => undefined)
  }

  private async start(): Promise<{ server: BrowserServer; browser: Browser }> {
    const { chromium } = await import('playwright-core')
    const server = await chromium.launchServer({
      executablePath: this.executablePath,
      chromiumSandbox: this.sandbox,
      args: SWITCHES,
      handleSIGINT: false,
      handleSIGTERM: false,
      // Everything goes through the guard, this machine's own addresses included.
      proxy: { ...(await this.proxy()), bypass: '<-loopback>' },
    })
    try {
      return { server, browser: await chromium.connect(server.wsEndpoint()) }
    } catch (error) {
      await server.kill()
      throw error
    }
  }
}
