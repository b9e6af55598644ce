import type { AddressInfo } from 'node:net'
import { createKnotwork } from './knotwork/app.js'

export { createKnotwork, type KnotworkOptions } from './knotwork/app.js'
export { outcomeAuthorization, outcomeXml, sendOutcome, type OutcomeTarget } from './lti1/send-outcome.js'
export { MISBEHAVIOURS, type Misbehaviour } from './misbehaviours.js'

/** What the practice tools are started with. */
export interface PracticeOptions {
  host: string
  /** 0 takes a free port. */
  knotworkPort: number
  stateFolder?: string
}

/** The made-up credentials that Knotwork shows on its front page. */
export const KNOTWORK_CREDENTIALS = { consumerKey: 'skerrow-knots', sharedSecret: 'halyard-3-bowline-7-fid' }

/** Starts the practice tools, each on an origin of its own. */
export async function startPracticeTools(
  options: PracticeOptions,
): Promise<{ knotwork: string; stop: () => Promise<void> }> {
  const port = options.knotworkPort === 0 ? await freePort(options.host) : options.knotworkPort
  const publicUrl = `http://${options.host}:${port}`
  const app = await createKnotwork({
    publicUrl,
    ...KNOTWORK_CREDENTIALS,
    ...(options.stateFolder !== undefined && { stateFile: `${options.stateFolder}/knotwork.json` }),
  })
  await app.listen({ host: options.host, port })
  return { knotwork: publicUrl, stop: () => app.close() }
}

async function freePort(host: string): Promise<number> {
  const { createServer } = await import('node:net')
  const server = createServer()
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, host, resolve))
  const { port } = server.address() as AddressInfo
  await new Promise((resolve) => server.close(resolve))
  return port
}
