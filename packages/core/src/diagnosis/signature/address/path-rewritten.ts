import type { Mistake } from '../mistake.js'
import { addressed } from './ways.js'

const MOST_FOLDERS = 6
/** Where applications are mounted behind a proxy. */
const PREFIXES = ['/app', '/api', '/public', '/index.php', '/lti', '/v1']

/** A proxy or a router gave the code that signs another path. */
export const pathRewritten: Mistake = {
  code: 'path_rewritten',
  name: 'a part of the path left out or put before it',
  family: 'path',
  sentence:
    'The signature was made for a path with a part left out, added or doubled, as a proxy or a router makes it.',
  ours: 'Look whether `publicUrl` has the whole path under which the outside world reaches this service.',
  theirs: 'Sign the whole address as it was given, not the path that a proxy or a router hands on.',
  ways: (_, right) =>
    addressed(right, 'path', [
      (path) => `/${path}`,
      (path) => path.replace(/\/{2,}/g, '/'),
      ...Array.from({ length: MOST_FOLDERS }, (__, n) => (path: string) => withoutFirst(path, n + 1)),
      (path) => path.slice(0, Math.max(1, path.lastIndexOf('/'))),
      (path) => path.slice(0, path.lastIndexOf('/') + 1),
      () => '',
      () => '/',
      ...PREFIXES.map((prefix) => (path: string) => `${prefix}${path}`),
    ]),
}

function withoutFirst(path: string, folders: number): string {
  const parts = path.split('/')
  return parts.length > folders + 1 ? `/${parts.slice(folders + 1).join('/')}` : path
}
