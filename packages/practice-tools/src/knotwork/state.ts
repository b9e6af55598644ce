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

/** What Knotwork remembers: in memory, and in a file if one is named, so that it survives a restart. */
export class KnotworkState {
  private readonly links: Record<string, LinkState>

  constructor(private readonly file: string | undefined) {
    this.links = file && existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Record<string, LinkState>) : {}
  }

  link(id: string, title = '', course = ''): LinkState {
    const link = (this.links[id] ??= { title, course, misbehaviours: [], workers: {} })
    if (title) link.title = title
    if (course) link.course = course
    return link
  }

  worker(linkId: string, userId: string, name: string): Worker {
    return (this.link(linkId).workers[userId] ??= { name, attempts: 0, fraction: null, sent: 'not yet' })
  }

  save(): void {
    if (!this.file) return
    writeFileSync(`${this.file}.new`, JSON.stringify(this.links))
    renameSync(`${this.file}.new`, this.file)
  }
}
