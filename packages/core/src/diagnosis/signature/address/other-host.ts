import type { Mistake } from '../mistake.js'
import { addressed } from './ways.js'

const PORTS = [80, 443, 8080, 8443, 9443, 8000, 3000, 5000, 8888, 8081]

/** Signed for a name or port that this service has behind a reverse proxy, or with a default port written out. */
export const otherHost: Mistake = {
  code: 'other_host',
  name: 'another host or port',
  family: 'host',
  sentence: 'The signature was made for another host or port, as happens behind a reverse proxy.',
  ours: 'Set `publicUrl` to the address that tools are given, and have the proxy pass the host on.',
  theirs: 'Sign the address as it was given, not the one that a proxy calls.',
  ways: ({ request, hosts }, right) => {
    const bare = (host: string) => host.replace(/:\d+$/, '')
    // As it stood in the address, before it was put into small letters.
    const asGiven = /^https?:\/\/([^/?#]*)/i.exec(request.url)?.[1] ?? ''
    return addressed(right, 'host', [
      ...hosts.map((host) => () => host),
      bare,
      ...PORTS.map((port) => (host: string) => `${bare(host)}:${port}`),
      () => asGiven,
      (host) => (host.startsWith('www.') ? host.slice('www.'.length) : `www.${host}`),
      (host) => `${host}.`,
    ])
  },
}
