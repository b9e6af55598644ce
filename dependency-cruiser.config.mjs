// The arrows of docs/architecture: console and cli → contract; service → contract, core; contract → core; practice-tools → none.
const only = (from, allowed, extra = {}) => ({
  name: `${from}-imports-only-${allowed.join('-') || 'itself'}`,
  severity: 'error',
  from: { path: `^packages/${from}/src`, ...extra },
  to: { path: '^packages/', pathNot: [from, ...allowed].map((name) => `^packages/${name}/`) },
})

export default {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    only('service', ['contract', 'core']),
    only('console', ['contract']),
    only('cli', ['contract'], { pathNot: '^packages/cli/src/commands/service\\.ts$' }),
    only('practice-tools', []),
    only('practice-office', []),
    only('practice-sign-on', []),
    only('yard', ['core', 'contract', 'service', 'practice-tools', 'practice-office', 'practice-sign-on']),
    {
      name: 'core-has-no-io',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'sql-lives-in-records',
      severity: 'error',
      comment: 'Only the records, the queue and the start-up know the database.',
      from: {
        path: '^packages/service/src',
        pathNot: [
          '/records/',
          '/jobs/',
          '/service\\.ts$',
          '/upkeep\\.ts$',
          '/http/(server|health)\\.ts$',
          '/keys/(check-keys|reseal)\\.ts$',
        ],
      },
      to: { path: 'node_modules/(typeorm|pg)/' },
    },
    {
      name: 'use-cases-know-no-http',
      severity: 'error',
      from: { path: '^packages/service/src/(desk|inbound|records|wire|jobs)/' },
      to: { path: '^packages/service/src/http/' },
    },
    {
      name: 'messages-use-the-desk',
      severity: 'error',
      comment: 'What comes in is taken by use cases; these know of no message.',
      from: { path: '^packages/service/src/(desk|records|wire|jobs)/' },
      to: { path: '^packages/service/src/inbound/' },
    },
    {
      name: 'use-cases-have-a-room',
      severity: 'error',
      comment: 'By the noun that they are about; only the context is everybody’s.',
      from: {},
      to: { path: '^packages/service/src/desk/[^/]+\\.ts$', pathNot: '/context\\.ts$' },
    },
    {
      name: 'records-decide-nothing',
      severity: 'error',
      from: { path: '^packages/service/src/records/' },
      to: { path: '^packages/service/src/(desk|wire|jobs)/' },
    },
    {
      name: 'other-end-never-by-core',
      severity: 'error',
      comment: 'Signatures are checked by a library that shares nothing with core; core itself never uses it.',
      from: { path: '^packages/(core|contract|service|cli|console)/src' },
      to: { path: 'node_modules/oauth-1\\.0a' },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-orphans',
      severity: 'error',
      from: {
        orphan: true,
        path: '^packages/[^/]+/src',
        pathNot: ['\\.d\\.ts$', '/workers/tasks\\.ts$', '/yard/src/(commands|load)/'],
      },
      to: {},
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)dist/' },
    tsConfig: { fileName: 'tsconfig.test.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['types', 'import', 'default'] },
  },
}
