import { afterAll, expect } from 'vitest'
import { takeUnaudited } from './acts.js'
import { closeAll } from './closing.js'

afterAll(async () => {
  await closeAll()
  expect(takeUnaudited(), 'what the audit does not say, or says apart from it').toEqual({ unaudited: [], apart: [] })
})
