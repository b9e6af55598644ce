import type { HashName } from '../../oauth1/digest.js'

/** What a command shows to whoever runs it. */
export type Shows = 'as_it_must_be' | 'as_it_was_made' | 'as_you_sign' | 'hash_of_what_came' | 'our_clock' | 'our_addresses' | 'our_keys' | 'header' | 'claims' // oxfmt-ignore

/** A command by which the other end can see for itself, with what everybody has: a Unix shell, `openssl`, `curl`. Holds no secret. */
export interface Reproduction {
  shows: Shows
  command: string
}

/** Longer ones are no proof that fits into a letter. */
const MOST_CHARACTERS = 6000

const inShell = (text: string) => `'${text.replaceAll("'", "'\\''")}'`

/** The signature of a base string (RFC 5849 section 3.4.2). @param key as a shell writes it in double quotes, by the variables SECRET and KEY */
export function macCommand(shows: Shows, hash: HashName, base: string, key = '$SECRET&'): Reproduction[] {
  if (base.length > MOST_CHARACTERS) return []
  return [{ shows, command: `printf '%s' ${inShell(base)} | openssl dgst -${hash} -hmac "${key}" -binary | openssl base64` }] // oxfmt-ignore
}

/** The hash of a body (OAuth Request Body Hash 1.0 section 3.2). */
export function bodyCommand(hash: HashName, body: Uint8Array): Reproduction[] {
  if (body.length > MOST_CHARACTERS / 2) return []
  const text = btoa(String.fromCharCode(...body))
  const bytes = text === '' ? "printf ''" : `printf '%s' '${text}' | openssl base64 -d -A`
  return [{ shows: 'hash_of_what_came', command: `${bytes} | openssl dgst -${hash} -binary | openssl base64` }]
}

/** A part of the token in the variable TOKEN, decoded. */
function partCommand(shows: Shows, part: 1 | 2): Reproduction {
  const padded = `awk '{ while (length($0) % 4) $0 = $0 "="; print }'`
  return { shows, command: `printf '%s\\n' "$TOKEN" | cut -d. -f${part} | tr '_-' '/+' | ${padded} | openssl base64 -d -A` } // oxfmt-ignore
}

const CLOCKS = ['clock_off', 'held_back', 'clock_of_one_off', 'expired', 'from_the_future']
const ADDRESSES = ['issuer', 'earlier_address', 'audience']
const KEYS = ['key_unknown', 'key_named_otherwise', 'signed_by_other_key', 'key_withdrawn', 'key_of_another', 'signature'] // oxfmt-ignore
const HEADERS = [...KEYS, 'key_id_missing', 'algorithm', 'algorithm_named_otherwise']
const CLAIMS = [...ADDRESSES, 'subject', 'client_unknown', 'deployment', 'version', 'message_type', 'claims_missing', 'milliseconds', 'times_as_text', 'expiry_missing', 'good_for_too_long', 'ends_before_made', 'other_registration'] // oxfmt-ignore

/** What shows a cause that needs no computing. @param platform our public address @param isToken whether it is about a token */
export function plainCommands(code: string, platform: string, isToken: boolean): Reproduction[] {
  const found: Reproduction[] = []
  if (isToken && HEADERS.includes(code)) found.push(partCommand('header', 1))
  if (isToken && CLAIMS.includes(code)) found.push(partCommand('claims', 2))
  if (isToken && ADDRESSES.includes(code))
    found.push({
      shows: 'our_addresses',
      command: `curl -s ${inShell(`${platform}/.well-known/openid-configuration`)}`,
    })
  if (isToken && KEYS.includes(code)) found.push({ shows: 'our_keys', command: `curl -s ${inShell(`${platform}/lti/keyset`)}` }) // oxfmt-ignore
  if (CLOCKS.includes(code)) found.push({ shows: 'our_clock', command: `curl -sI ${inShell(`${platform}/`)} | grep -i '^date:'; date -u` }) // oxfmt-ignore
  return found
}
