import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { SIGN_ON_CLIENT, SIGN_ON_HANDLE } from './client.js'
import type { Account } from './people.js'
import type { PracticeProvider } from './provider.js'

export { SIGN_ON_CLIENT, SIGN_ON_HANDLE } from './client.js'
export type { PracticeProvider, SignOnState } from './provider.js'
export { ACCOUNTS, subjectOf, type Account } from './people.js'

/** The running practice identity provider. */
export interface PracticeSignOn {
  issuer: string
  provider: PracticeProvider
  client: typeof SIGN_ON_CLIENT
  handle: typeof SIGN_ON_HANDLE
  stop: () => Promise<void>
}

/**
 * Starts the practice identity provider on an origin of its own.
 * @param options `services`: public addresses of the services that may send people here
 */
export async function startPracticeSignOn(options: {
  host: string
  port: number
  services: readonly string[]
  accounts?: readonly Account[]
}): Promise<PracticeSignOn> {
  const { host, port, ...rest } = options
  // Only where one is started: the library is large, and says on loading what it thinks of the runtime.
  const { PracticeProvider: Practice } = await import('./provider.js')
  const serving: { provider?: PracticeProvider } = {}
  const server = createServer((request, response) => {
    serving.provider?.handle(request, response).catch((error: unknown) => {
      if (!response.headersSent) response.writeHead(500)
      response.end((error as Error).message)
    })
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(port, host, resolve))
  const issuer = `http://${host}:${(server.address() as AddressInfo).port}`
  const provider = await Practice.create({ issuer, ...rest })
  serving.provider = provider
  return {
    issuer,
    provider,
    client: SIGN_ON_CLIENT,
    handle: SIGN_ON_HANDLE,
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve())
        server.closeAllConnections()
      }),
  }
}
