import type { FastifyInstance } from 'fastify'
import type { AddressInfo } from 'node:net'
import { createChandlery } from './chandlery/app.js'
import { createHarbour } from './harbour/app.js'
import { createKnotwork } from './knotwork/app.js'
import { createLantern } from './lantern/app.js'
import { createPlotting } from './plotting/app.js'
import { createSextant } from './sextant/app.js'
import { createSignal } from './signal/app.js'
import { createTally } from './tally/app.js'
import { createWatchlog } from './watchlog/app.js'

export { createChandlery, LOCKERS } from './chandlery/app.js'
export { createHarbour } from './harbour/app.js'
export { createKnotwork, type KnotworkOptions } from './knotwork/app.js'
export { outcomeAuthorization, outcomeXml, sendOutcome, type OutcomeTarget } from './lti1/send-outcome.js'
export { MISBEHAVIOURS, type Misbehaviour } from './misbehaviours.js'
export { HOSTILE_FAULTS } from './parts/hostile.js'
export { TOOL_FAULTS } from './parts/switches.js'
export { PICKER_FAULTS } from './knotwork/shelf.js'
export { createLantern } from './lantern/app.js'
export { selectionFields } from './lti1/answer-picking.js'
export { pickingToken } from './lti13/answer-picking.js'
export { TOOL13_FAULTS } from './lti13/faults.js'
export { clientAssertion, requestToken, unsignedAssertion } from './lti13/service-token.js'
export { newKey, type Platform } from './lti13/state.js'
export { verifyIdToken } from './lti13/verify-token.js'
export { createPlotting, SHEETS } from './plotting/app.js'
export { createSextant, metadataOf } from './sextant/app.js'
export { createSignal, TOPICS } from './signal/app.js'
export { createTally } from './tally/app.js'
export { createWatchlog, RUBRIC } from './watchlog/app.js'

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
  plotting: { consumerKey: 'skerrow-plotting', sharedSecret: 'parallel-6-rule-4-divider' },
} as const

export const PRACTICE_TOOLS = [
  'knotwork',
  'harbour',
  'chandlery',
  'sextant',
  'plotting',
  'signal',
  'lantern',
  'watchlog',
  'tally',
] as const
export type PracticeTool = (typeof PRACTICE_TOOLS)[number]

type Common = { publicUrl: string; stateFile?: string }
const MAKERS: Record<PracticeTool, (options: Common) => Promise<FastifyInstance>> = {
  knotwork: (options) => createKnotwork({ ...options, ...CREDENTIALS.knotwork }),
  harbour: (options) => createHarbour({ ...options, ...CREDENTIALS.harbour }),
  chandlery: (options) => createChandlery({ ...options, ...CREDENTIALS.chandlery }),
  plotting: (options) => createPlotting({ ...options, ...CREDENTIALS.plotting }),
  sextant: createSextant,
  signal: createSignal,
  lantern: createLantern,
  watchlog: createWatchlog,
  tally: createTally,
}

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
    const app = await MAKERS[name](common)
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
