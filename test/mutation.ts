import { defineConfig } from 'vitest/config'
import whole from '../vitest.config.js'

/** One project's tests for the mutation of a folder: those that know it, in one process that is kept. Which, says `npm run mutate -- --whole`. */
const { MUTATION_PROJECT: project, MUTATION_TESTS: tests = '' } = process.env
const found = whole.test?.projects?.find(
  (one) => typeof one === 'object' && 'test' in one && one.test?.name === project,
) as { resolve: object; test: object } | undefined
if (!found) throw new Error(`There is no project ${project ?? ''}.`)

export default defineConfig({
  resolve: found.resolve,
  test: { ...found.test, name: project ?? '', include: tests.split(' ') },
})
