import { sha1 } from '@noble/hashes/legacy'
import { sha256 } from '@noble/hashes/sha2'
import { bytesToHex } from '@noble/hashes/utils'
import { base64url, type PublicKey } from '../../lti13/index.js'

const utf8 = new TextEncoder()

/** Names that ends make of a key itself: its thumbprint (RFC 7638 section 3) by one of two hashes, as it is written here and there. */
export function thumbprintsOf({ e, kty, n }: PublicKey): string[] {
  const bytes = utf8.encode(JSON.stringify({ e, kty, n }))
  return [sha256(bytes), sha1(bytes)].flatMap((hash) => {
    const hex = bytesToHex(hash)
    return [base64url(hash), btoa(String.fromCharCode(...hash)), hex, hex.toUpperCase()]
  })
}
