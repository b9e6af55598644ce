import type { Mistake } from '../mistake.js'

const METHODS = ['GET', 'POST', 'PUT', 'DELETE', 'PATCH', 'HEAD']

export const otherMethod: Mistake = {
  code: 'other_method',
  name: 'another method than the one it came by',
  family: 'method',
  sentence: 'It was signed as if it were sent by another HTTP method, or with the method written otherwise.',
  ours: null,
  theirs: 'Sign the method by which the message is sent, in capitals (RFC 5849 section 3.4.1.1).',
  ways: (_, right) =>
    [
      ...METHODS,
      right.method.toLowerCase(),
      right.method.slice(0, 1) + right.method.slice(1).toLowerCase(),
      'get',
      'Get',
      '',
      'FORM',
    ]
      .filter((method, i, all) => method !== right.method && all.indexOf(method) === i)
      .map((method) => ({
        change: () => ({ method }),
        evidence: [
          ['sent by', right.method],
          ['signed as', method === '' ? 'no method' : method],
        ],
      })),
}
