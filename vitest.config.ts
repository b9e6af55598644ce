import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const source = (path: string) => fileURLToPath(new URL(`packages/${path}`, import.meta.url))

// Core and service are tested from their sources; the end-to-end tests run what was built, as users do.
const alias = [
  { find: /^@bathyscribe\/core\/(.*)$/, replacement: source('core/src/$1/index.ts') },
  { find: /^@bathyscribe\/contract$/, replacement: source('contract/src/index.ts') },
  { find: /^@bathyscribe\/practice-tools$/, replacement: source('practice-tools/src/main.ts') },
  { find: /^@bathyscribe\/practice-office$/, replacement: source('practice-office/src/main.ts') },
  { find: /^@bathyscribe\/service$/, replacement: source('service/src/main.ts') },
]

// Most of the tests wait for something most of the time, so that two do not hinder each other even on two cores.
const WORKERS = Math.max(2, availableParallelism() - 1)

export default defineConfig({
  test: {
    maxWorkers: WORKERS,
    projects: [
      {
        resolve: { alias },
        test: {
          name: 'core',
          include: ['packages/{core,contract,practice-tools,console}/test/**/*.test.ts'],
          testTimeout: 30_000,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'service',
          include: ['packages/service/test/**/*.test.ts'],
          globalSetup: ['test/postgres.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
        },
      },
      {
        test: {
          name: 'end to end',
          include: ['test/end-to-end/**/*.test.ts'],
          testTimeout: 240_000,
          hookTimeout: 240_000,
          // Each has a whole academy and a browser to itself; two of them at once keep people waiting too long.
          fileParallelism: false,
          sequence: { groupOrder: 1 },
        },
      },
    ],
  },
})
