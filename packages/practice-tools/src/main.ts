import type { AddressInfo } from 'node:net'
import { createChandlery } from './chandlery/app.js'
import { createHarbour } from './harbour/app.js'
import { createKnotwork } from './knotwork/app.js'
import { createSextant } from './sextant/app.js'

export { createChandlery, SHELVES } from './chandlery/app.js'
export { createHarbour } from './harbour/app.js'
export { createKnotwork, type KnotworkOptions } from './knotwork/app.js'
export { outcomeAuthorization, outcomeXml, sendOutcome, type OutcomeTarget } from './lti1/send-outcome.js'
export { MISBEHAVIOURS, type Misbehaviour } from './misbehaviours.js'
export { TOOL_FAULTS } from './parts/switches.js'
export { createSextant } from './sextant/app.js'
export { SEXTANT_FAULTS } from './sextant/faults.js'
export { metadataOf } from './sextant/registration.js'
export { clientAssertion, requestToken, unsignedAssertion } from './sextant/service-token.js'
export { newKey, type Platform } from './sextant/state.js'
export { verifyIdToken } from './sextant/verify-token.js'

/** What the practice tools are started with. */
export interface PracticeOptions {
  host: string
  /** Of the first tool; the others take the ports after it. 0 takes free ones. */
  port: number
  stateFolder?: string
}

/** The made-up credentials that the tools of LTI 1.1 show on their front pages. */
export const CREDENTIALS = {
  knotwork: { consumerKey: 'skerrow-knots', sharedSecret: 'halyard-3-bowline-7-fid' },
  harbour: { consumerKey: 'skerrow-harbour', sharedSecret: 'fender-8-bollard-2-tide' },
  chandlery: { consumerKey: 'skerrow-chandlery', sharedSecret: 'shackle-5-thimble-1-wax' },
} as const

export const PRACTICE_TOOLS = ['knotwork', 'harbour', 'chandlery', 'sextant'] as const
export type PracticeTool = (typeof PRACTICE_TOOLS)[number]

/** Starts the practice tools, each on an origin of its own. */
export async function startPracticeTools(
  options: PracticeOptions,
): Promise<{ addresses: Record<PracticeTool, string>; stop: () => Promise<void> }> {
  const { host, stateFolder } = options
  const addresses = {} as Record<PracticeTool, string>
  const stops: (() => Promise<unknown>)[] = []
  for (const [i, name] of PRACTICE_TOOLS.entries()) {
    const port = options.port === 0 ? await freePort(host) : options.port + i
    const publicUrl = `http://${host}:${port}`
    const common = { publicUrl, ...(stateFolder !== undefined && { stateFile: `${stateFolder}/${name}.json` }) }
    const app =
      name === 'sextant'
        ? await createSextant(common)
        : await { knotwork: createKnotwork, harbour: createHarbour, chandlery: createChandlery }[name]({
            ...common,
            ...CREDENTIALS[name],
          })
    await app.listen({ host, port })
    addresses[name] = publicUrl
    stops.push(() => app.close())
  }
  return {
    addresses,
    stop: async () => {
      await Promise.all(stops.map((stop) => stop()))
    },
  }
}

async function freePort(host: string): Promise<number> {
  const { createServer } = await import('node:net')
  const server = createServer()
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, host, resolve))
  const { port } = server.address() as AddressInfo
  await new Promise((resolve) => server.close(resolve))
  return port
}
