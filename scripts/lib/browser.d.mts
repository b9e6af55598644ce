import type { Browser, Page } from 'playwright-core'
export function openBrowser(): Promise<Browser>
export function signInBy(page: Page, url: string, username: string, password: string): Promise<void>
