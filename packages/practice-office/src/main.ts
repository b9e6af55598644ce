import { createOffice, OFFICE_CLIENT } from './app.js'

export { createOffice, OFFICE_CLIENT, type OfficeState } from './app.js'

/** Starts the practice records office on an origin of its own. */
export async function startPracticeOffice(options: {
  host: string
  port: number
  stateFile?: string
}): Promise<{ address: string; client: typeof OFFICE_CLIENT; stop: () => Promise<void> }> {
  const app = await createOffice(options.stateFile)
  const address = await app.listen({ host: options.host, port: options.port })
  return {
    address,
    client: OFFICE_CLIENT,
    stop: async () => {
      await app.close()
    },
  }
}
