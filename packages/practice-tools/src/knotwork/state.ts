import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import type { Misbehaviour } from '../misbehaviours.js'

/** One person's work on one link. */
export interface Worker {
  name: string
  attempts: number
  fraction: string | null
  sent: string
}
export interface LinkState {
  title: string
  course: string
  misbehaviours: Misbehaviour[]
  workers: Record<string, Worker>
}

interface Stored {
  links: Record<string, LinkState>
  tool: { faults?: string[] }
}

/** What Knotwork remembers: in memory, and in a file if one is named, so that it survives a restart. */
export class KnotworkState {
  private readonly links: Record<string, LinkState>
  /** Of the whole tool. */
  readonly tool: { faults?: string[] }

  constructor(private readonly file: string | undefined) {
    const kept = file && existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Partial<Stored>) : {}
    this.links = kept.links ?? {}
    this.tool = kept.tool ?? {}
  }

  link(id: string, title = '', course = ''): LinkState {
    const link = (this.links[id] ??= { title, course, misbehaviours: [], workers: {} })
    if (title) link.title = title
    if (course) link.course = course
    return link
  }

  known(id: string): LinkState | undefined {
    return this.links[id]
  }

  worker(linkId: string, userId: string, name: string): Worker {
    return (this.link(linkId).workers[userId] ??= { name, attempts: 0, fraction: null, sent: 'not yet' })
  }

  save(): void {
    if (!this.file) return
    writeFileSync(`${this.file}.new`, JSON.stringify({ links: this.links, tool: this.tool } satisfies Stored))
    renameSync(`${this.file}.new`, this.file)
  }
}
