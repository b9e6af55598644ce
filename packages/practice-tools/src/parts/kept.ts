import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'

/** What a tool remembers: in memory, and in a file if one is named, so that it survives a restart. */
export class Kept<T extends object> {
  readonly value: T

  constructor(
    private readonly file: string | undefined,
    empty: T,
  ) {
    this.value = file && existsSync(file) ? { ...empty, ...(JSON.parse(readFileSync(file, 'utf8')) as T) } : empty
  }

  save(): void {
    if (!this.file) return
    writeFileSync(`${this.file}.new`, JSON.stringify(this.value))
    renameSync(`${this.file}.new`, this.file)
  }
}
