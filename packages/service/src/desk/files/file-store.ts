import { Refusal } from '@bathyscribe/contract'
import { fileTypeFromBuffer } from 'file-type'
import { createHash } from 'node:crypto'
import { createReadStream, type ReadStream } from 'node:fs'
import { mkdir, open, rename, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'

/** What was stored: where, how much, and what it is by its content. */
export interface Stored {
  contentKey: string
  bytes: number
  mediaType: string
}

const HEAD_BYTES = 4100

/** Contents of files, outside of the database, each once under its own hash. */
export class FileStore {
  constructor(
    private readonly folder: string,
    private readonly maxBytes: number,
  ) {}

  /** Writes a stream to the end, or nothing at all. @throws Refusal `file.too_large`, `file.empty` */
  async store(chunks: AsyncIterable<Buffer>, name: string): Promise<Stored> {
    const parts = join(this.folder, 'incoming')
    await mkdir(parts, { recursive: true, mode: 0o700 })
    const draft = join(parts, `${process.pid}-${Math.random().toString(36).slice(2)}`)
    const handle = await open(draft, 'wx', 0o600)
    try {
      const hash = createHash('sha256')
      const head: Buffer[] = []
      let bytes = 0
      for await (const chunk of chunks) {
        if (bytes < HEAD_BYTES) head.push(chunk)
        bytes += chunk.length
        if (bytes > this.maxBytes)
          throw new Refusal('file.too_large', `more than ${Math.floor(this.maxBytes / 1_048_576)} MiB`)
        hash.update(chunk)
        await handle.write(chunk)
      }
      if (bytes === 0) throw new Refusal('file.empty', name)
      const contentKey = hash.digest('hex')
      await handle.sync()
      const target = this.pathOf(contentKey)
      await mkdir(join(target, '..'), { recursive: true, mode: 0o700 })
      await rename(draft, target)
      return { contentKey, bytes, mediaType: await typeOf(Buffer.concat(head).subarray(0, HEAD_BYTES)) }
    } finally {
      await handle.close()
      await rm(draft, { force: true })
    }
  }

  /** @throws Refusal when the content is gone */
  async read(contentKey: string): Promise<{ stream: ReadStream; bytes: number }> {
    const path = this.pathOf(contentKey)
    try {
      const { size } = await stat(path)
      return { stream: createReadStream(path), bytes: size }
    } catch (cause) {
      throw new Refusal('file.not_found', 'its content is gone', undefined, { cause })
    }
  }

  async remove(contentKey: string): Promise<void> {
    await rm(this.pathOf(contentKey), { force: true })
  }

  private pathOf(contentKey: string): string {
    return join(this.folder, contentKey.slice(0, 2), contentKey)
  }
}

/** What a file is by its first bytes; its name says nothing. */
async function typeOf(head: Buffer): Promise<string> {
  const known = await fileTypeFromBuffer(head)
  if (known) return known.mime
  const text = new TextDecoder('utf-8', { fatal: true })
  try {
    // The last character may be cut in two.
    const decoded = text.decode(head.subarray(0, Math.max(0, head.length - (head.length >= HEAD_BYTES ? 4 : 0))), {
      stream: true,
    })
    return /[\u0000-\u0008\u000e-\u001f]/.test(decoded) ? 'application/octet-stream' : 'text/plain'
  } catch {
    return 'application/octet-stream'
  }
}

/** A name as it may be kept: no folders, no control characters, nothing that turns writing around. */
export function cleanFileName(name: string): string {
  const last = name.toWellFormed().split(/[\\/]/).at(-1) ?? ''
  const plain = last
    .replace(/[\u0000-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069<>:"|?*]/g, '')
    .trim()
    .replace(/^\.+/, '')
    .slice(0, 200)
    .trim()
  return plain || 'file'
}
