import formbody from '@fastify/formbody'
import fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify'
import { randomBytes } from 'node:crypto'
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'

/** The made-up credentials of the academy at its records office. */
export const OFFICE_CLIENT = { clientId: 'skerrow-academy', clientSecret: 'logbook-7-ledger-4-quill' } as const

const SCOPE = 'https://purl.imsglobal.org/spec/or/v1p2/scope/gradebook.createput'
const KINDS = ['scoreScale', 'category', 'lineItem', 'result'] as const
type Kind = (typeof KINDS)[number]
const PLURAL: Record<Kind, string> = {
  scoreScale: 'scoreScales',
  category: 'categories',
  lineItem: 'lineItems',
  result: 'results',
}
type Entry = Record<string, unknown> & { sourcedId: string; status?: string }

/** What the office holds, and how it behaves. */
export interface OfficeState {
  kept: Record<Kind, Record<string, Entry>>
  /** Answers 503 to everything. */
  away: boolean
  slowMs: number
  /** Sourced identifiers of students whose results are refused. */
  refuses: string[]
  /** How many results were put, again and again counted. */
  puts: number
}

/** The practice records office: a student information system that takes results over OneRoster 1.2 REST, with a token of its own. Nothing of the service is in it. */
export async function createOffice(stateFile?: string): Promise<FastifyInstance> {
  const office = new Office(stateFile)
  await office.app.register(formbody)
  office.serve()
  return office.app
}

class Office {
  readonly app = fastify({ bodyLimit: 256 * 1024, forceCloseConnections: true })
  private readonly state: OfficeState
  /** When each token ends. */
  private readonly tokens = new Map<string, number>()

  constructor(private readonly stateFile?: string) {
    this.state = read(stateFile)
  }

  serve(): void {
    const { app, state } = this
    app.addHook('onRequest', async (request, reply) => {
      if (request.url.startsWith('/practice')) return
      if (state.slowMs > 0) await new Promise((resolve) => setTimeout(resolve, state.slowMs))
      if (state.away)
        return reply
          .code(503)
          .header('retry-after', '1')
          .send({ imsx_codeMajor: 'failure', imsx_description: 'The office is closed.' })
      return undefined
    })
    app.post<{ Body: Record<string, string> | undefined }>('/token', (request, reply) => this.giveToken(request, reply))
    for (const kind of KINDS)
      app.put<{ Params: { id: string }; Body: Record<string, Entry> | undefined }>(
        `/ims/oneroster/gradebook/v1p2/${PLURAL[kind]}/:id`,
        (request, reply) =>
          this.isKnown(request)
            ? this.put(kind, request.params.id, request.body?.[kind], reply)
            : failure(reply, 401, 'The token is not good.'),
      )
    app.get('/ims/oneroster/gradebook/v1p2/results', (request, reply) =>
      this.isKnown(request)
        ? reply.send({ results: Object.values(state.kept.result) })
        : failure(reply, 401, 'The token is not good.'),
    )
    this.serveFront()
  }

  private serveFront(): void {
    const { app, state } = this
    app.get('/', (_, reply) =>
      reply
        .type('text/html; charset=utf-8')
        .send(
          `<!doctype html><title>Records office</title><h1>Skerrow records office</h1><p>OneRoster 1.2: ${Object.keys(state.kept.result).length} results of ${Object.keys(state.kept.lineItem).length} line items.</p><p>Client ID <code>${OFFICE_CLIENT.clientId}</code>, client secret <code>${OFFICE_CLIENT.clientSecret}</code>, token address <code>/token</code>.</p>`,
        ),
    )
    app.get('/practice', (_, reply) => reply.send(state))
    app.post<{ Body: Partial<Pick<OfficeState, 'away' | 'slowMs' | 'refuses'>> | undefined }>(
      '/practice',
      (request, reply) => {
        Object.assign(state, request.body)
        this.save()
        return reply.send(state)
      },
    )
  }

  private giveToken(
    request: FastifyRequest<{ Body: Record<string, string> | undefined }>,
    reply: FastifyReply,
  ): FastifyReply {
    const basic = /^Basic (.+)$/.exec(request.headers.authorization ?? '')?.[1]
    const [id, secret] = basic ? Buffer.from(basic, 'base64').toString('utf8').split(':') : []
    if (id !== OFFICE_CLIENT.clientId || secret !== OFFICE_CLIENT.clientSecret)
      return reply.code(401).send({ error: 'invalid_client' })
    if (request.body?.['grant_type'] !== 'client_credentials')
      return reply.code(400).send({ error: 'unsupported_grant_type' })
    if (!(request.body['scope'] ?? '').split(' ').includes(SCOPE))
      return reply.code(400).send({ error: 'invalid_scope' })
    const token = randomBytes(18).toString('base64url')
    this.tokens.set(token, Date.now() + 300_000)
    return reply.send({ access_token: token, token_type: 'Bearer', expires_in: 300, scope: SCOPE })
  }

  private put(kind: Kind, id: string, entry: Entry | undefined, reply: FastifyReply): FastifyReply {
    const { state } = this
    if (!entry || entry.sourcedId !== id) return failure(reply, 400, `The body holds no ${kind} of this identifier.`)
    const wrong = kind === 'result' ? this.faultOf(entry) : undefined
    if (wrong) return failure(reply, 422, wrong)
    const isNew = state.kept[kind][entry.sourcedId] === undefined
    state.kept[kind][entry.sourcedId] = entry
    if (kind === 'result') state.puts += 1
    this.save()
    return reply.code(isNew ? 201 : 200).send({ [kind]: entry })
  }

  private save(): void {
    if (!this.stateFile) return
    writeFileSync(`${this.stateFile}.new`, JSON.stringify(this.state))
    renameSync(`${this.stateFile}.new`, this.stateFile)
  }

  private isKnown(request: FastifyRequest): boolean {
    const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? ''
    return (this.tokens.get(token) ?? 0) > Date.now()
  }

  private faultOf(result: Entry): string | undefined {
    const lineItem = (result['lineItem'] as { sourcedId?: string } | undefined)?.sourcedId ?? ''
    const student = (result['student'] as { sourcedId?: string } | undefined)?.sourcedId ?? ''
    if (!this.state.kept.lineItem[lineItem]) return 'The line item is not known here.'
    if (!student) return 'No student is named.'
    if (this.state.refuses.includes(student)) return `The student ${student} is not known here.`
    const { score, scoreStatus } = result
    return scoreStatus === 'fully graded' && typeof score !== 'number' ? 'A graded result needs a score.' : undefined
  }
}

function failure(reply: FastifyReply, status: number, description: string): FastifyReply {
  return reply.code(status).send({ imsx_codeMajor: 'failure', imsx_severity: 'error', imsx_description: description })
}

function read(file: string | undefined): OfficeState {
  const empty: OfficeState = {
    kept: { scoreScale: {}, category: {}, lineItem: {}, result: {} },
    away: false,
    slowMs: 0,
    refuses: [],
    puts: 0,
  }
  return file && existsSync(file) ? { ...empty, ...(JSON.parse(readFileSync(file, 'utf8')) as OfficeState) } : empty
}
