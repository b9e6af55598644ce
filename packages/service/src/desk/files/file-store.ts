import { Refusal } from '@bathyscribe/contract'
import { fileTypeFromBuffer } from 'file-type'
import { createHash } from 'node:crypto'
import { createReadStream, type ReadStream } from 'node:fs'
import { link, mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'

/** What was stored: where, how much, and what it is by its content. */
export interface Stored {
  contentKey: string
  bytes: number
  mediaType: string
}

const HEAD_BYTES = 4100
/** A content without a record is left alone for so long. */
const LEFT_ALONE_MS = 3600_000

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

  /**
   * Removes contents that no record speaks of. What was written a short while ago is left alone: its record may be on the way. A content that comes again while it is
   * being removed stays.
   * @param keptOf which of some contents have a record
   * @returns how many went
   */
  async sweep(keptOf: (contentKeys: readonly string[]) => Promise<ReadonlySet<string>>, now: Date): Promise<number> {
    let gone = 0
    const before = now.getTime() - LEFT_ALONE_MS
    for (const folder of await namesIn(this.folder)) {
      if (!/^[0-9a-f]{2}$/.test(folder)) continue
      const old = await olderThan(before, join(this.folder, folder))
      const kept = old.length === 0 ? new Set<string>() : await keptOf(old)
      for (const contentKey of old)
        if (!kept.has(contentKey)) gone += (await this.removeOne(contentKey, before, keptOf)) ? 1 : 0
    }
    return gone
  }

  /** Moved aside first, looked at once more, then removed: who stores the same content meanwhile writes it anew. */
  private async removeOne(
    contentKey: string,
    before: number,
    keptOf: (contentKeys: readonly string[]) => Promise<ReadonlySet<string>>,
  ): Promise<boolean> {
    const [target, aside] = [this.pathOf(contentKey), join(this.folder, 'incoming', `gone-${contentKey}`)]
    await mkdir(join(this.folder, 'incoming'), { recursive: true, mode: 0o700 })
    try {
      await rename(target, aside)
    } catch {
      return false
    }
    const { mtimeMs } = await stat(aside)
    const isNeeded = mtimeMs >= before || (await keptOf([contentKey])).has(contentKey)
    if (isNeeded) await link(aside, target).catch(() => undefined)
    await rm(aside, { force: true })
    return !isNeeded
  }

  private pathOf(contentKey: string): string {
    return join(this.folder, contentKey.slice(0, 2), contentKey)
  }
}

async function namesIn(folder: string): Promise<string[]> {
  return readdir(folder).catch(() => [])
}

async function olderThan(before: number, folder: string): Promise<string[]> {
  const old: string[] = []
  for (const name of await namesIn(folder)) {
    const found = await stat(join(folder, name)).catch(() => undefined)
    if (found?.isFile() && found.mtimeMs < before) old.push(name)
  }
  return old
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
