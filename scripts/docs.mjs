// Writes the pages of docs that are made from the code, so that the two cannot differ; tests compare them.
import { writeFileSync } from 'node:fs'
import { errorsPage } from './lib/errors-page.mjs'
import { messagesPage } from './lib/messages-page.mjs'
import { preflightPage } from './lib/preflight-page.mjs'
import { ROOT } from './lib/prepare.mjs'
import { ROWS } from '../packages/service/dist/inbound/table.js'

writeFileSync(`${ROOT}/docs/errors.md`, errorsPage())
writeFileSync(`${ROOT}/docs/preflight.md`, preflightPage())
writeFileSync(`${ROOT}/docs/messages.md`, messagesPage(ROWS))
