import { LRUCache } from 'lru-cache'
import { createCipheriv, createDecipheriv, createHash, hkdfSync, randomBytes } from 'node:crypto'
import { chownSync, existsSync, linkSync, readFileSync, renameSync, statSync, unlinkSync, writeFileSync } from 'node:fs'
import { z } from 'zod'

const KeyFile = z.strictObject({
  current: z.string(),
  keys: z.record(z.string().regex(/^[a-z0-9]{1,16}$/), z.base64()),
})

type KeyFile = z.infer<typeof KeyFile>

const OPENED_KEPT = 1000

/** Seals secrets at rest by AES-256-GCM, and holds the key under which result identifiers are written. */
export interface Keys {
  /** @returns key identifier, nonce, tag and cipher text, in one buffer. `about` is bound to it: another record cannot use it. */
  seal(text: string, about: string): Buffer
  /** @throws Error when it was not sealed under one of the file's keys for `about`. */
  unseal(sealed: Buffer, about: string): string
  /** Whether a value is sealed under the key that seals today. */
  isCurrent(sealed: Buffer): boolean
  readonly resultIdKey: Uint8Array
  /** Of hints and addresses that are good for minutes: the first one writes, all are read. */
  readonly hintKeys: readonly [Uint8Array, ...Uint8Array[]]
  readonly cookieKey: string
  /** By which the file is known again; says nothing of its keys. */
  readonly mark: string
}

/** Makes a key file (mode 600) unless there is one; two processes at once end with one file. */
export function ensureKeyFile(path: string): void {
  if (existsSync(path)) return
  const content = JSON.stringify({ current: 'k1', keys: { k1: randomBytes(32).toString('base64') } })
  const draft = `${path}.${randomBytes(6).toString('hex')}`
  writeFileSync(draft, content, { mode: 0o600 })
  try {
    linkSync(draft, path)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
  } finally {
    unlinkSync(draft)
  }
}

function contentOf(path: string): KeyFile {
  let content
  try {
    content = KeyFile.parse(JSON.parse(readFileSync(path, 'utf8')))
  } catch (cause) {
    throw new Error(
      `The key file ${path} cannot be read. For new records \`bathyscribe service migrate\` makes one; others need the one that they were made with.`,
      { cause },
    )
  }
  const current = content.keys[content.current]
  if (current === undefined || Buffer.from(current, 'base64').length !== 32)
    throw new Error(`The key file ${path} holds no usable current key.`)
  return content
}

/** Puts another content in the place of a key file at once: whoever reads meanwhile has the old one or the new one. Owner and mode stay. */
function replaceContent(path: string, content: KeyFile): void {
  const { mode, uid, gid } = statSync(path)
  const draft = `${path}.${randomBytes(6).toString('hex')}`
  try {
    writeFileSync(draft, JSON.stringify(content), { mode })
    if (process.getuid?.() === 0) chownSync(draft, uid, gid)
    renameSync(draft, path)
  } finally {
    if (existsSync(draft)) unlinkSync(draft)
  }
}

/** Adds a key that seals from now on; the others go on opening. @returns its identifier */
export function addKey(path: string): string {
  const content = contentOf(path)
  const id = `k${Math.max(0, ...Object.keys(content.keys).map((one) => Number(one.slice(1)) || 0)) + 1}`
  const keys = { ...content.keys, [id]: randomBytes(32).toString('base64') }
  replaceContent(path, { current: id, keys })
  return id
}

/**
 * Takes out the keys under which nothing is sealed any more. The first one stays: result identifiers hang on it.
 * @returns the identifiers of those that went
 */
export function forgetOldKeys(path: string): string[] {
  const content = contentOf(path)
  const [first] = Object.keys(content.keys)
  const gone = Object.keys(content.keys).filter((id) => id !== first && id !== content.current)
  const keys = Object.fromEntries(Object.entries(content.keys).filter(([id]) => !gone.includes(id)))
  if (gone.length > 0) replaceContent(path, { current: content.current, keys })
  return gone
}

/** What a file's content is used as. */
function heldOf(path: string) {
  const content = contentOf(path)
  const keys = new Map(Object.entries(content.keys).map(([id, key]) => [id, Buffer.from(key, 'base64')]))
  const current = keys.get(content.current)!
  const derive = (key: Uint8Array, use: string) =>
    Buffer.from(hkdfSync('sha256', key, Buffer.alloc(0), `bathyscribe ${use}`, 32))
  // Result identifiers live in tools for years, and some tools know a learner again by them: they hang on the first key, whatever key seals secrets today.
  const first = keys.values().next().value!
  const others = [...keys].filter(([id]) => id !== content.current).map(([, key]) => key)
  const hintKeys: [Uint8Array, ...Uint8Array[]] = [
    derive(current, 'login hints'),
    ...others.map((key) => derive(key, 'login hints')),
  ]
  return {
    id: content.current,
    keys,
    current,
    resultIdKey: derive(first, 'result identifiers'),
    hintKeys,
    cookieKey: derive(current, 'cookies').toString('base64'),
    mark: derive(first, 'key mark').toString('base64url'),
  }
}

const keyIdOf = (sealed: Buffer) => sealed.subarray(1, 1 + sealed[0]!).toString()

/** Reads the key file, and reads it again when it meets a key that it does not know yet. @throws Error in words when it is missing or of another form */
export function readKeys(path: string): Keys {
  let held = heldOf(path)
  const opened = new LRUCache<string, string>({ max: OPENED_KEPT })
  const keyOf = (id: string) => {
    if (!held.keys.has(id)) held = heldOf(path)
    const key = held.keys.get(id)
    if (!key) throw new Error('A secret is sealed under a key that the key file does not hold.')
    return key
  }

  return {
    seal(text, about) {
      const nonce = randomBytes(12)
      const cipher = createCipheriv('aes-256-gcm', held.current, nonce).setAAD(Buffer.from(about))
      const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()])
      const id = Buffer.from(held.id)
      return Buffer.concat([Buffer.from([id.length]), id, nonce, cipher.getAuthTag(), sealed])
    },
    unseal(sealed, about) {
      const name = `${about} ${sealed.toString('latin1')}`
      const known = opened.get(name)
      if (known !== undefined) return known
      const start = 1 + sealed[0]!
      const decipher = createDecipheriv('aes-256-gcm', keyOf(keyIdOf(sealed)), sealed.subarray(start, start + 12))
      decipher.setAAD(Buffer.from(about)).setAuthTag(sealed.subarray(start + 12, start + 28))
      const text = Buffer.concat([decipher.update(sealed.subarray(start + 28)), decipher.final()]).toString('utf8')
      // The keys are in this process's memory anyway; the few secrets in use need not be opened for every message.
      opened.set(name, text)
      return text
    },
    isCurrent: (sealed) => keyIdOf(sealed) === held.id,
    get resultIdKey() {
      return held.resultIdKey
    },
    get hintKeys() {
      return held.hintKeys
    },
    cookieKey: held.cookieKey,
    mark: held.mark,
  }
}

/** SHA-256, for values of high entropy that need only be recognised again: session and API tokens, set-up codes. */
export function fingerprint(text: string): Buffer {
  return createHash('sha256').update(text).digest()
}
