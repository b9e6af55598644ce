import { join } from 'node:path'
import { freePort, freeRow } from '@bathyscribe/yard/machine/ports'
import { RUN } from '@bathyscribe/yard/machine/place'
import { stopStack } from '@bathyscribe/yard/machine/stack'

/** Where an academy of the tests lives. Its addresses are in its records: the ports stay its own until all tests have ended. */
export interface Place {
  folder: string
  servicePort: number
  toolsPort: number
}

/** More than files run at once: where one broke off, its place is left alone. */
const PLACES = 6

export default async function setup(project: { provide: (key: 'places', value: Place[]) => void }) {
  const places: Place[] = []
  for (let i = 1; i <= PLACES; i++)
    places.push({
      folder: join(RUN, `e2e-${process.pid}-${i}`),
      servicePort: await freePort(),
      toolsPort: await freeRow(),
    })
  project.provide('places', places)
  return async () => {
    for (const { folder } of places) await stopStack(folder, { remove: true })
  }
}

declare module 'vitest' {
  interface ProvidedContext {
    places: Place[]
  }
}
