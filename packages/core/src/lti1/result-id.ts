import { sameDigest, shortMac } from '../oauth1/digest.js'

/** The work of one person on one link, as carried by `lis_result_sourcedid`. */
export interface ResultTarget {
  linkId: string
  personId: string
}

const FORM = /^r1-([0-9a-z]{1,32})-([0-9a-z]{1,32})-([A-Za-z0-9_-]{22})$/

/**
 * Writes the result identifier (`lis_result_sourcedid`) of one person and link: opaque to the tool, at most 120
 * characters, and sealed with a message code, so that neither person nor link can be exchanged.
 */
export function writeResultId(key: Uint8Array, target: ResultTarget): string {
  return `r1-${target.linkId}-${target.personId}-${seal(key, target)}`
}

/** Reads a result identifier; undefined when it was not written by us under this key. Says nothing of whether both still exist. */
export function readResultId(key: Uint8Array, text: string): ResultTarget | undefined {
  const parts = FORM.exec(text)
  if (!parts) return undefined
  const target = { linkId: parts[1]!, personId: parts[2]! }
  return sameDigest(parts[3]!, seal(key, target)) ? target : undefined
}

function seal(key: Uint8Array, target: ResultTarget): string {
  return shortMac(key, `result ${target.linkId} ${target.personId}`)
}
