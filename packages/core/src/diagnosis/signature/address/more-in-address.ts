import { upTo } from '../../../text/index.js'
import type { Mistake } from '../mistake.js'
import { addressed } from './ways.js'

/** What stands behind the path of an address, and does not belong into a base string (RFC 5849 section 3.4.1.2). */
export const moreInAddress: Mistake = {
  code: 'more_in_address',
  name: 'more behind the path than belongs there',
  family: 'path',
  sentence: 'Something follows the path in the address that was signed: a “?” alone, or what follows “#”.',
  ours: null,
  theirs: 'Sign the address up to the end of its path, without “?”, query and “#” (RFC 5849 section 3.4.1.2).',
  ways: ({ request: { url } }, right) => {
    const from = upTo(url, '#')
    return addressed(right, 'behindPath', [
      (behind) => `${behind}?`,
      (behind) => behind + url.slice(from.length),
      () => '#',
      () => '?#',
    ])
  },
}

/** Only a part of the address was signed. */
export const addressInPart: Mistake = {
  code: 'address_in_part',
  name: 'a part of the address only',
  family: 'host',
  sentence: 'Only a part of the address was signed: its path without host, or its host without scheme.',
  ours: null,
  theirs: 'Sign the whole address: scheme, host and path (RFC 5849 section 3.4.1.2).',
  ways: (_, right) => addressed(right, 'host', [() => '']),
}
