import type { NewSounding, SoundingDetail } from '@bathyscribe/contract'
import type { z } from 'zod'
import type { TestAcademy } from './harness.js'

/** Runs a sounding to its end. */
export async function runSounding(
  { admin }: TestAcademy,
  assignment: string,
  wanted: z.input<typeof NewSounding> = {},
): Promise<SoundingDetail> {
  const one = await admin.client.call('runSounding', { params: { assignment }, body: wanted })
  return endOf({ admin }, one.id)
}

/** Waits until a sounding has ended. */
export async function endOf({ admin }: Pick<TestAcademy, 'admin'>, id: string): Promise<SoundingDetail> {
  for (;;) {
    const one = await admin.client.call('showSounding', { params: { id } })
    if (one.state !== 'running') return one
    await new Promise((resolve) => setTimeout(resolve, 40))
  }
}

/** What decides of a sounding: the first check that failed, else the first that warned. */
export function decisive(one: Pick<SoundingDetail, 'findings'>) {
  return (
    one.findings.find((found) => found.verdict === 'fail') ?? one.findings.find((found) => found.verdict === 'warn')
  )
}
