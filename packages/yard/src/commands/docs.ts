import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROWS } from '@bathyscribe/service/inbound'
import { ROOT } from '../machine/place.js'
import { errorsPage } from '../pages/errors-page.js'
import { glossaryPage } from '../pages/glossary-page.js'
import { messagesPage } from '../pages/messages-page.js'
import { preflightPage } from '../pages/preflight-page.js'

/** Writes the pages of docs that are made from the code, so that the two cannot differ; tests compare them. */
export function main(): number {
  writeFileSync(join(ROOT, 'docs/errors.md'), errorsPage())
  writeFileSync(join(ROOT, 'docs/glossary.md'), glossaryPage())
  writeFileSync(join(ROOT, 'docs/preflight.md'), preflightPage())
  writeFileSync(join(ROOT, 'docs/messages.md'), messagesPage(ROWS))
  return 0
}
