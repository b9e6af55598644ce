import formbody from '@fastify/formbody'
import fastify, { type FastifyInstance, type FastifyReply } from 'fastify'
import { LaunchRefused, LaunchVerifier, type Fields } from '../lti1/verify-launch.js'
import { toolPage, valueTable, type Look } from './page.js'
import { registerSwitches, Switches, TOOL_FAULTS } from './switches.js'
import { toolConfigurationXml } from './tool-configuration.js'

export interface Tool1Options {
  /** The tool's own origin, as browsers and platforms reach it. */
  publicUrl: string
  consumerKey: string
  sharedSecret: string
  /** File in which it remembers; in memory only without one. */
  stateFile?: string
  slowMs?: number
}

/** What every practice tool of LTI 1.1 has: credentials to copy, configuration at an address, switches, verified launches. */
export async function createTool1(
  options: Tool1Options,
  parts: {
    look: Look
    description: string
    kept: { faults?: string[] }
    save: () => void
    /** What the front page says of it. */
    front?: string
    onLaunch: (fields: Fields, reply: FastifyReply, url: string) => FastifyReply | Promise<FastifyReply>
    /** More addresses that take launches, as routes of the tool's own. */
    launchPaths?: readonly string[]
  },
): Promise<FastifyInstance> {
  const { look } = parts
  const app = fastify({ bodyLimit: 256 * 1024, forceCloseConnections: true })
  const verifier = new LaunchVerifier({ [options.consumerKey]: options.sharedSecret }, Date.now, look.name)
  const launchUrl = `${options.publicUrl}/launch`
  await app.register(formbody)
  app.setErrorHandler((error, _, reply) => {
    const status = error instanceof LaunchRefused ? error.status : 500
    const text = error instanceof LaunchRefused ? error.message : 'We ran aground on this one.'
    return sendMessage(reply, look, 'Launch refused', text, status)
  })
  registerSwitches(app, look, new Switches(TOOL_FAULTS, parts.kept, parts.save), options.slowMs ?? 12_000)

  app.get('/', (_, reply) => {
    const values = valueTable([
      ['Consumer key', options.consumerKey],
      ['Shared secret', options.sharedSecret],
      ['Launch address', launchUrl],
      ['Configuration address', `${options.publicUrl}/config.xml`],
    ])
    const body = `<h1>Your credentials</h1><p>Enter these in your platform. ${parts.front ?? 'LTI 1.1; no scores are returned.'}</p>${values}`
    return reply.type('text/html; charset=utf-8').send(toolPage(look, 'Credentials', 'Skerrow Maritime Academy', body))
  })
  app.get('/config.xml', (_, reply) =>
    reply.type('application/xml').send(
      toolConfigurationXml({
        title: look.name,
        description: parts.description,
        launchUrl,
        vendor: { name: look.name, email: 'support@tools.example' },
      }),
    ),
  )
  app.get('/launch', (_, reply) => sendMessage(reply, look, look.name, 'This address takes launches.'))
  for (const path of ['/launch', ...(parts.launchPaths ?? [])])
    app.post<{ Body: Fields | undefined }>(path, (request, reply) => {
      const fields = request.body ?? {}
      verifier.verify(`${options.publicUrl}${request.url}`, fields)
      return parts.onLaunch(fields, reply, `${options.publicUrl}${request.url}`)
    })
  return app
}

export function sendMessage(reply: FastifyReply, look: Look, title: string, text: string, status = 200): FastifyReply {
  const body = `<h1>${title}</h1><p>${text}</p>`
  return reply
    .code(status)
    .type('text/html; charset=utf-8')
    .send(toolPage(look, title, '', body))
}

export function isInstructor(fields: Fields): boolean {
  return /(^|[,/])(Instructor|TeachingAssistant|Administrator)(,|$)/.test(fields['roles'] ?? '')
}
