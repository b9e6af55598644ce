import { chromium, type Browser, type Page } from 'playwright-core'
import { CHROMIUM } from './place.js'

const SWITCHES = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  // A tool's frame in a process of its own is now and then never announced to the driver, though it is drawn.
  '--disable-site-isolation-trials',
]

/** A camera and a microphone that show and say something made up, and a person who always agrees. */
export const MADE_UP_DEVICES = ['--use-fake-device-for-media-stream', '--use-fake-ui-for-media-stream']

/** Debian's Chromium, headless, asking nothing of the network by itself. */
export function openBrowser(more: readonly string[] = []): Promise<Browser> {
  return chromium.launch({ executablePath: CHROMIUM, args: [...SWITCHES, ...more] })
}

/** Fills in the sign-in page and waits until it is left. */
export async function signInBy(page: Page, url: string, username: string, password: string): Promise<void> {
  await page.goto(`${url}/sign-in`)
  await page.getByLabel('User name').fill(username)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.waitForURL((address) => address.pathname !== '/sign-in')
}
