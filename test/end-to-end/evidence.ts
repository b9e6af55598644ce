import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, beforeEach } from 'vitest'
import { REPORT } from '@bathyscribe/yard/machine/place'
import { keepLogs, openAcademies, openContexts, refusals } from './academy.js'

// Of a failed test there remain: what each of its windows showed (the whole page), what was done in them, what the service refused to them, and the logs of the service and the tools.
beforeEach(() => void refusals.splice(0))
afterEach(async ({ task }) => {
  if (task.result?.state !== 'fail') return
  const folder = join(REPORT, task.name.replace(/[^\p{L}\p{N}]+/gu, '-').slice(0, 80))
  mkdirSync(folder, { recursive: true })
  let n = 0
  for (const context of openContexts) {
    n++
    await context.tracing.stop({ path: join(folder, `window-${n}.zip`) }).catch(() => undefined)
    for (const page of context.pages())
      await page.screenshot({ path: join(folder, `window-${n}.png`), fullPage: true }).catch(() => undefined)
  }
  writeFileSync(join(folder, 'refused.log'), refusals.join('\n'))
  for (const academy of openAcademies) keepLogs(academy, folder)
})
