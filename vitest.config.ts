import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'
import { PATIENCE_MS } from './test/eventually.js'
import { LongestFirst } from './test/longest-first.js'

const source = (path: string) => fileURLToPath(new URL(`packages/${path}`, import.meta.url))

// Core and service are tested from their sources; the end-to-end tests run what was built, as users do.
const alias = [
  { find: /^@bathyscribe\/core\/(.*)$/, replacement: source('core/src/$1/index.ts') },
  { find: /^@bathyscribe\/yard\/(.*)$/, replacement: source('yard/src/$1.ts') },
  { find: /^@bathyscribe\/service\/inbound$/, replacement: source('service/src/inbound/table.ts') },
  { find: /^@bathyscribe\/contract$/, replacement: source('contract/src/index.ts') },
  { find: /^@bathyscribe\/practice-tools$/, replacement: source('practice-tools/src/main.ts') },
  { find: /^@bathyscribe\/practice-office$/, replacement: source('practice-office/src/main.ts') },
  { find: /^@bathyscribe\/practice-sign-on$/, replacement: source('practice-sign-on/src/main.ts') },
  { find: /^@bathyscribe\/service$/, replacement: source('service/src/main.ts') },
]

// Most of the tests wait for something most of the time, so that three do not hinder each other even on two cores.
const WORKERS = 3
// What never comes fails after these; what is only slow, on a machine that others use, too, does not.
const common = { expect: { poll: { timeout: PATIENCE_MS } }, setupFiles: ['test/fixed-seed.ts'] }

export default defineConfig({
  test: {
    maxWorkers: WORKERS,
    // A busy machine takes its time to let a file's service, browser and tools go.
    teardownTimeout: PATIENCE_MS,
    sequence: { sequencer: LongestFirst },
    projects: [
      {
        resolve: { alias },
        test: {
          ...common,
          name: 'core',
          include: ['packages/{core,contract,practice-tools,yard}/test/**/*.test.ts'],
          isolate: false,
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
      {
        resolve: { alias },
        plugins: [vue({ template: { compilerOptions: { whitespace: 'preserve' }, transformAssetUrls: false } })],
        test: {
          ...common,
          name: 'console',
          include: ['packages/console/test/**/*.test.ts'],
          setupFiles: [...common.setupFiles, 'test/served.ts'],
          environment: 'happy-dom',
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
      {
        resolve: { alias },
        test: {
          ...common,
          name: 'command line',
          include: ['packages/cli/test/**/*.test.ts'],
          setupFiles: [...common.setupFiles, 'test/served.ts'],
          testTimeout: 120_000,
        },
      },
      {
        resolve: { alias },
        test: {
          ...common,
          name: 'service',
          include: ['packages/service/test/**/*.test.ts'],
          // The files of a worker share what they import: reading the sources anew for each took longer than most of the tests.
          isolate: false,
          setupFiles: [...common.setupFiles, 'packages/service/test/set-up.ts'],
          globalSetup: ['test/postgres.ts'],
          testTimeout: 240_000,
          hookTimeout: 240_000,
        },
      },
      {
        test: {
          ...common,
          globalSetup: ['test/end-to-end/places.ts'],
          setupFiles: [...common.setupFiles, 'test/end-to-end/evidence.ts'],
          name: 'end to end',
          include: ['test/end-to-end/**/*.test.ts'],
          isolate: false,
          testTimeout: 480_000,
          hookTimeout: 480_000,
          // Each has a whole academy and a browser to itself, and waits for them most of the time.
          maxWorkers: WORKERS,
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: {
          ...common,
          name: 'processes',
          include: ['test/processes/**/*.test.ts'],
          testTimeout: 480_000,
          hookTimeout: 480_000,
          // Four services, a proxy, a database and a load: what is refused here shall be refused by a restart, not by a neighbour.
          maxWorkers: 1,
          sequence: { groupOrder: 2 },
        },
      },
    ],
  },
})
