import { copyFileSync, existsSync, mkdtempSync, renameSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { migrateRecords, startService } from '@bathyscribe/service'
import { beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { ensureKeyFile } from '../src/keys/key-file.js'
import { registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
let folder: string
beforeAll(async () => {
  academy = await startAcademy()
  folder = mkdtempSync(join(tmpdir(), 'bathyscribe-keys-'))
})
const settings = (keyFile: string, port: number) => ({ ...academy.service.context.settings, keyFile, port }) as never
const start = async (keyFile: string) => {
  const service = await startService(settings(keyFile, await freePort()))
  await service.stop()
}
const other = (name: string) => {
  const path = join(folder, name)
  ensureKeyFile(path)
  return path
}

describe.each([
  ['that hold no secret yet', async () => undefined],
  ['that hold secrets', async () => void (await registerKnotwork(academy))],
])('the key file of records %s', (_, fill) => {
  beforeAll(fill)

  it('is the only one that a process starts with, and it may lie elsewhere', async () => {
    await expect(start(other('another.json'))).rejects.toThrow(/is not the one that these records were made with/)
    const copy = join(folder, 'copy.json')
    copyFileSync(academy.service.context.settings.keyFile, copy)
    await start(copy)
  })

  it('is not made anew by migrating when it is gone', async () => {
    const gone = join(folder, 'gone.json')
    rmSync(gone, { force: true })
    await expect(migrateRecords(settings(gone, 0))).rejects.toThrow(
      /There is no key file at .*gone\.json, but these records were made with one/,
    )
    expect(existsSync(gone)).toBe(false)
    await expect(start(gone)).rejects.toThrow(/cannot be read/)
    await expect(migrateRecords(settings(other('second.json'), 0))).rejects.toThrow(/is not the one/)
  })

  it('goes on being taken where it came back', async () => {
    const { keyFile } = academy.service.context.settings
    renameSync(keyFile, `${keyFile}.away`)
    await expect(start(keyFile)).rejects.toThrow(/cannot be read/)
    renameSync(`${keyFile}.away`, keyFile)
    await start(keyFile)
    expect(await migrateRecords(settings(keyFile, 0))).toEqual([])
  })
})
