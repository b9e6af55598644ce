import { createCipheriv, createDecipheriv, createHash, hkdfSync, randomBytes } from 'node:crypto'
import { existsSync, linkSync, readFileSync, unlinkSync, writeFileSync } from 'node:fs'
import { z } from 'zod'

const KeyFile = z.strictObject({
  current: z.string(),
  keys: z.record(z.string().regex(/^[a-z0-9]{1,16}$/), z.base64()),
})

const OPENED_KEPT = 1000

/** Seals secrets at rest by AES-256-GCM, and holds the key under which result identifiers are written. */
export interface Keys {
  /** @returns key identifier, nonce, tag and cipher text, in one buffer. `about` is bound to it: another record cannot use it. */
  seal(text: string, about: string): Buffer
  /** @throws Error when it was not sealed under one of these keys for `about`. */
  unseal(sealed: Buffer, about: string): string
  readonly resultIdKey: Uint8Array
  readonly hintKey: Uint8Array
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

/** Reads the key file. @throws Error in words when it is missing or of another form. */
export function readKeys(path: string): Keys {
  let content
  try {
    content = KeyFile.parse(JSON.parse(readFileSync(path, 'utf8')))
  } catch (cause) {
    throw new Error(
      `The key file ${path} cannot be read. For new records \`bathyscribe service migrate\` makes one; others need the one that they were made with.`,
      { cause },
    )
  }
  const keys = new Map(Object.entries(content.keys).map(([id, key]) => [id, Buffer.from(key, 'base64')]))
  const current = keys.get(content.current)
  if (current?.length !== 32) throw new Error(`The key file ${path} holds no usable current key.`)
  // Result identifiers live in tools for years: they hang on the first key, whatever key seals secrets today.
  const first = keys.values().next().value!
  const opened = new Map<string, string>()
  const derive = (use: string) => Buffer.from(hkdfSync('sha256', first, Buffer.alloc(0), `bathyscribe ${use}`, 32))

  return {
    seal(text, about) {
      const nonce = randomBytes(12)
      const cipher = createCipheriv('aes-256-gcm', current, nonce).setAAD(Buffer.from(about))
      const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()])
      const id = Buffer.from(content.current)
      return Buffer.concat([Buffer.from([id.length]), id, nonce, cipher.getAuthTag(), sealed])
    },
    unseal(sealed, about) {
      const name = `${about} ${sealed.toString('latin1')}`
      const known = opened.get(name)
      if (known !== undefined) return known
      const start = 1 + sealed[0]!
      const key = keys.get(sealed.subarray(1, start).toString())
      if (!key) throw new Error('A secret is sealed under a key that the key file does not hold.')
      const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(start, start + 12))
      decipher.setAAD(Buffer.from(about)).setAuthTag(sealed.subarray(start + 12, start + 28))
      const text = Buffer.concat([decipher.update(sealed.subarray(start + 28)), decipher.final()]).toString('utf8')
      // The keys are in this process's memory anyway; the few secrets in use need not be opened for every message.
      if (opened.size >= OPENED_KEPT) opened.clear()
      opened.set(name, text)
      return text
    },
    resultIdKey: derive('result identifiers'),
    hintKey: derive('login hints'),
    cookieKey: derive('cookies').toString('base64'),
    mark: derive('key mark').toString('base64url'),
  }
}

/** SHA-256, for values of high entropy that need only be recognised again: session and API tokens, set-up codes. */
export function fingerprint(text: string): Buffer {
  return createHash('sha256').update(text).digest()
}
