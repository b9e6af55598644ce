// Writes docs/errors.md from the catalogue, so that the two cannot differ; a test compares them.
import { writeFileSync } from 'node:fs'
import { errorsPage } from './lib/errors-page.mjs'
import { ROOT } from './lib/prepare.mjs'

writeFileSync(`${ROOT}/docs/errors.md`, errorsPage())
