import { escapeAll, type Doing, type Pairs } from './signer.js'

/** A fault that an end is seen to make, and the code by which it has to be called. Several where the message cannot tell them apart. */
export interface Fault {
  code: string | readonly string[]
  what: string
  doing: Doing
  /** The faults that it is made of. */
  each: readonly Fault[]
}

function fault(code: Fault['code'], what: string, doing: Doing): Fault {
  const made: Fault = { code, what, doing, each: [] }
  return { ...made, each: [made] }
}
const small = (text: string) => text.replace(/%[0-9A-F]{2}/g, (one) => one.toLowerCase())
const ofBase = (part: 0 | 1 | 2, change: (text: string) => string): Doing => ({
  base: (base) =>
    base
      .split('&')
      .map((one, i) => (i === part ? change(one) : one))
      .join('&'),
})
const html = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')
const drop = (name: string | RegExp) => (pairs: Pairs) =>
  pairs.filter(([one]) => (typeof name === 'string' ? one !== name : !name.test(one)))
const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0)

const SECRETS: readonly Fault[] = [
  ...[' ', '\n', '\r\n', '\t', '\u00a0', '\u200b', '\ufeff', '  '].map((blank) => fault('secret_has_blanks', `secret with ${JSON.stringify(blank)} behind it`, { secret: (one) => one + blank })), // oxfmt-ignore
  ...[' ', '\t', '\u00a0', '\u200b', '\ufeff'].map((blank) => fault('secret_has_blanks', `secret with ${JSON.stringify(blank)} before it`, { secret: (one) => blank + one })), // oxfmt-ignore
  fault('secret_has_blanks', 'blanks on both sides', { secret: (one) => ` ${one} ` }),
  fault('secret_has_marks', 'double quotes around the secret', { secret: (one) => `"${one}"` }),
  fault('secret_has_marks', 'single quotes around the secret', { secret: (one) => `'${one}'` }),
  fault('secret_has_marks', 'curly quotes around the secret', { secret: (one) => `“${one}”` }),
  fault('secret_has_marks', 'full stop behind the secret', { secret: (one) => `${one}.` }),
  fault('secret_has_marks', 'comma behind the secret', { secret: (one) => `${one},` }),
  fault('secret_in_other_letters', 'secret in small letters', { secret: (one) => one.toLowerCase() }),
  fault('secret_in_other_letters', 'secret in capitals', { secret: (one) => one.toUpperCase() }),
  fault('secret_in_other_letters', 'first letter capital', { secret: (one) => one[0]!.toUpperCase() + one.slice(1) }),
  fault('secret_in_other_letters', 'secret decomposed', { secret: (one) => one.normalize('NFD') }),
  fault('secret_cut', 'last character missing', { secret: (one) => one.slice(0, -1) }),
  fault('secret_cut', 'first character missing', { secret: (one) => one.slice(1) }),
  fault('secret_cut', 'secret cut to 20', { secret: (one) => one.slice(0, 20) }),
  fault('secret_cut', 'secret cut to 16', { secret: (one) => one.slice(0, 16) }),
  fault(['secret_cut', 'secret_has_marks'], '“=” cut off the secret', { secret: (one) => one.replaceAll('=', '') }),
  fault('secret_converted', 'secret escaped as in HTML', { secret: html }),
  fault('secret_converted', 'secret encoded for an address', { secret: (one) => encodeURIComponent(one) }),
  fault('secret_converted', 'secret decoded from an address', { secret: (one) => decodeURIComponent(one.replaceAll('%', '%25').replaceAll('+', ' ')) }), // oxfmt-ignore
  fault('secret_converted', 'secret in base64', { secret: (one) => Buffer.from(one).toString('base64') }),
  fault('secret_converted', 'secret in hexadecimal', { secret: (one) => Buffer.from(one).toString('hex') }),
  fault('secret_converted', 'hyphens made dashes', { secret: (one) => one.replaceAll('-', '–') }),
  fault('another_for_secret', 'empty secret', { secret: () => '' }),
  fault('another_for_secret', 'the word undefined', { secret: () => 'undefined' }),
  fault('another_for_secret', 'the word null', { secret: () => 'null' }),
  fault('another_for_secret', 'secret twice', { secret: (one) => one + one }),
  fault('another_for_secret', 'key, colon, secret', { secret: (one, key) => `${key}:${one}` }),
  fault('secret_mistyped', 'two letters exchanged', { secret: (one) => one.slice(0, 4) + one[5]! + one[4]! + one.slice(6) }), // oxfmt-ignore
  fault('secret_mistyped', 'a letter left out', { secret: (one) => one.slice(0, 3) + one.slice(4) }),
  fault('secret_mistyped', 'a letter twice', { secret: (one) => one.slice(0, 3) + one[2]! + one.slice(3) }),
  fault('secret_mistyped', 'nought for O', { secret: (one) => one.replace('O', '0') }),
  fault('secret_mistyped', 'one for l', { secret: (one) => one.replace('l', '1') }),
  fault('key_and_secret_swapped', 'key for secret', { secret: (_, key) => key }),
  fault('previous_secret', 'the secret before', { secret: () => 'capstan-before-2025' }),
  fault('secret_of_another_registration', 'the secret of another', { secret: () => 'parallel-rules-77' }),
]

const KEYS: readonly Fault[] = [
  fault('ampersand_left_out', 'no “&” behind the secret', { key: (secret) => escapeAll(secret) }),
  fault('secret_not_encoded', 'secret not escaped', { key: (secret) => `${secret}&` }),
  fault('key_made_otherwise', 'key and secret', { key: (secret, key) => `${escapeAll(key)}&${escapeAll(secret)}` }),
  fault('key_made_otherwise', 'secret on both sides', { key: (secret) => `${escapeAll(secret)}&${escapeAll(secret)}` }),
  fault('key_made_otherwise', '“&” in front', { key: (secret) => `&${escapeAll(secret)}` }),
  fault('key_made_otherwise', '“&” escaped', { key: (secret) => `${escapeAll(secret)}%26` }),
  fault('key_made_otherwise', 'null behind it', { key: (secret) => `${escapeAll(secret)}&null` }),
  fault(['key_made_otherwise', 'secret_converted'], 'secret escaped twice', { key: (secret) => `${escapeAll(escapeAll(secret))}&` }), // oxfmt-ignore
]

const ADDRESSES: readonly Fault[] = [
  ...['GET', 'PUT', 'post', 'Post'].map((method) => fault('other_method', `signed as ${method}`, { method })),
  fault('other_scheme', 'http for https', { address: (one) => one.replace('https:', 'http:') }),
  fault('other_host', 'host behind a proxy', { address: (one) => one.replace(/\/\/[^/]+/, '//127.0.0.1:8080') }),
  fault('other_host', 'port 8443', { address: (one) => one.replace(/\/\/([^/]+)/, '//$1:8443') }),
  fault('other_host', 'port 9443', { address: (one) => one.replace(/\/\/([^/]+)/, '//$1:9443') }),
  fault('other_host', 'port 443 written out', { address: (one) => one.replace(/\/\/([^/]+)/, '//$1:443') }),
  fault('trailing_slash', 'slash at the end', { address: (one) => (one.endsWith('/') ? one.slice(0, -1) : `${one}/`) }),
  fault('path_decoded', 'path decoded', { address: (one) => decodeURIComponent(one) }),
  fault('path_decoded', 'path in small letters', { address: (one) => one.toLowerCase() }),
  fault('path_rewritten', 'two slashes', { address: (one) => one.replace(/(\/\/[^/]+)\//, '$1//') }),
  fault('path_rewritten', 'first folder left out', { address: (one) => one.replace(/(\/\/[^/]+)\/[^/]+/, '$1') }),
  fault('address_in_part', 'path alone', { address: (one) => new URL(one).pathname }),
  fault('more_in_address', '“?” at the end', { address: (one) => `${one}?` }),
  fault('query_in_address', 'query in the address, too', { address: (one, url) => one + new URL(url).search }),
  fault('address_encoding', 'address not escaped', ofBase(1, decodeURIComponent)),
  fault(
    'address_encoding',
    'slashes of the address not escaped',
    ofBase(1, (one) => one.replaceAll('%2F', '/')),
  ),
]

const PARAMETERS: readonly Fault[] = [
  fault('query_left_out', 'query not signed', { pairs: drop(/^(unit|group)$/) }),
  fault('query_left_out', 'one of the query not signed', { pairs: drop('group') }),
  fault('query_twice', 'query signed twice', { pairs: (all) => [...all, ...all.filter(([name]) => /^(unit|group)$/.test(name))] }), // oxfmt-ignore
  fault('query_read_otherwise', '“+” of the query kept', { pairs: (all) => all.map(([name, value]) => [name, name === 'group' ? value.replaceAll(' ', '+') : value]) }), // oxfmt-ignore
  fault(['changed_after_signing', 'group_left_out'], 'submit added', { pairs: drop('ext_submit') }),
  fault('changed_after_signing', 'two added', { pairs: drop(/^(ext_submit|commit)$/) }),
  fault('changed_after_signing', 'title changed on the way', { pairs: drop('resource_link_title') }),
  fault('empty_left_out', 'empty ones left out', { pairs: (all) => all.filter(([, value]) => value !== '') }),
  fault(['group_left_out', 'changed_after_signing'], 'custom ones left out', { pairs: drop(/^custom_/) }),
  fault(['group_left_out', 'changed_after_signing'], 'only those of OAuth', { pairs: (all) => all.filter(([name]) => /^(oauth_|unit$|group$)/.test(name)) }), // oxfmt-ignore
  fault('oauth_fields_differ', 'version added afterwards', { pairs: drop('oauth_version') }),
  fault('oauth_fields_differ', 'empty token signed', { pairs: (all) => [...all, ['oauth_token', '']] }),
  fault('oauth_fields_differ', 'callback signed', { pairs: (all) => [...all.filter(([name]) => name !== 'oauth_callback'), ['oauth_callback', 'about:blank']] }), // oxfmt-ignore
  fault('plus_for_blank', 'blanks as plus', { escape: (text) => escapeAll(text).replaceAll('%20', '+') }),
  fault(['plus_for_blank', 'marks_encoded_otherwise'], 'as a form is encoded', { escape: (text) => new URLSearchParams([['', text]]).toString().slice(1) }), // oxfmt-ignore
  fault('marks_encoded_otherwise', "!'()* left as they are", { escape: (text) => encodeURIComponent(text) }),
  fault('marks_encoded_otherwise', '~ escaped', { escape: (text) => escapeAll(text).replaceAll('~', '%7E') }),
  fault('marks_encoded_otherwise', 'slash left as it is', { escape: (text) => escapeAll(text).replaceAll('%2F', '/') }),
  fault('marks_encoded_otherwise', 'as whole addresses are encoded', { escape: (text) => encodeURI(text) }),
  fault('escapes_in_small_letters', 'escapes of values in small letters', { escape: (text) => small(escapeAll(text)) }),
  fault('escapes_in_small_letters', 'all escapes in small letters', { escape: (text) => small(escapeAll(text)), base: small }), // oxfmt-ignore
  fault('double_encoding', 'values escaped twice', { escape: (text) => escapeAll(escapeAll(text)) }),
  fault('double_encoding', 'values not escaped', { escape: (text) => text }),
  fault('double_encoding', 'whole not escaped', ofBase(2, decodeURIComponent)),
  fault('double_encoding', 'whole escaped twice', ofBase(2, escapeAll)),
  fault('other_charset', 'UTF-8 read as Latin-1', { text: (text) => Buffer.from(text, 'utf8').toString('latin1') }),
  fault('other_charset', 'in Latin-1', { escape: (text) => [...text].map((one) => (one.charCodeAt(0) > 127 && one.charCodeAt(0) < 256 ? `%${one.charCodeAt(0).toString(16).toUpperCase()}` : escapeAll(one))).join('') }), // oxfmt-ignore
  fault('other_charset', '“?” for letters', { text: (text) => text.replace(/[^\x00-\x7f]/gu, '?') }),
  fault('other_normal_form', 'decomposed', { text: (text) => text.normalize('NFD') }),
  fault('other_line_ends', 'LF for CR LF', { text: (text) => text.replaceAll('\r\n', '\n') }),
  fault('other_line_ends', 'values trimmed', { text: (text) => text.trim() }),
  fault('html_escaped', 'values escaped as in HTML', { text: html }),
  fault('html_escaped', 'and the apostrophe', { text: (text) => html(text).replaceAll("'", '&#39;') }),
  fault('other_order', 'not sorted', { sort: (pairs) => pairs }),
  fault('other_order', 'sorted without capitals', { sort: (pairs) => pairs.sort((a, b) => compare(a[0].toLowerCase(), b[0].toLowerCase()) || compare(a[1].toLowerCase(), b[1].toLowerCase())) }), // oxfmt-ignore
  fault('other_order', 'values of a name not sorted', { sort: (pairs) => pairs.sort((a, b) => compare(a[0], b[0])) }),
  fault('other_order', 'sorted before escaping', { sort: (pairs, plain) => pairs.map((one, i) => [one, plain[i]!] as const).sort(([, a], [, b]) => compare(a[0], b[0]) || compare(a[1], b[1])).map(([one]) => one) }), // oxfmt-ignore
]

const FORMS: readonly Fault[] = [
  fault('signature_form', 'in hexadecimal', { write: (digest) => digest.toString('hex') }),
  fault('signature_form', 'base64 of hexadecimal', { write: (digest) => Buffer.from(digest.toString('hex')).toString('base64') }), // oxfmt-ignore
  fault('signature_form', 'without padding', { write: (digest) => digest.toString('base64').replaceAll('=', '') }),
  fault('signature_form', 'alphabet for addresses', { write: (digest) => digest.toString('base64url') }),
  fault('signature_form', 'escaped twice', { write: (digest) => encodeURIComponent(digest.toString('base64')) }),
  fault('signature_form', 'blank for plus', { write: (digest) => digest.toString('base64').replaceAll('+', ' ') }),
  fault('signature_form', 'line end behind', { write: (digest) => `${digest.toString('base64')}\n` }),
  fault('other_digest', 'SHA-256 for SHA-1', { hash: 'sha256' }),
  fault('other_digest', 'SHA-512', { hash: 'sha512' }),
  fault('other_digest', 'MD5', { hash: 'md5' }),
]

export const FAULTS: readonly Fault[] = [...SECRETS, ...KEYS, ...ADDRESSES, ...PARAMETERS, ...FORMS]

/** Two faults of one message, where they do not touch the same. */
export function bothOf(a: Fault, b: Fault): Fault | undefined {
  const names = Object.keys(a.doing)
  if (names.some((name) => name in b.doing)) return undefined
  return {
    code: [a.code, b.code].flat(),
    what: `${a.what}; ${b.what}`,
    doing: { ...a.doing, ...b.doing },
    each: [a, b],
  }
}

/** Pairs that are seen in the field. */
export const LIKELY_PAIRS: readonly (readonly [string, string])[] = [
  ['http for https', 'slash at the end'],
  ['http for https', 'blanks as plus'],
  ['http for https', 'submit added'],
  ['http for https', 'the secret of another'],
  ['http for https', 'the secret before'],
  ['http for https', 'secret not escaped'],
  ['http for https', 'last character missing'],
  ['host behind a proxy', 'blanks as plus'],
  ['host behind a proxy', 'the secret before'],
  ['the secret before', 'no “&” behind the secret'],
  ['the secret before', 'blanks as plus'],
  ['key for secret', 'http for https'],
  ['slash at the end', 'empty ones left out'],
  ['blanks as plus', 'empty ones left out'],
  ['signed as GET', 'query not signed'],
  ['SHA-256 for SHA-1', 'http for https'],
  ['in hexadecimal', 'http for https'],
  ['without padding', 'the secret before'],
  ['not sorted', 'blanks as plus'],
  ["!'()* left as they are", 'http for https'],
]
