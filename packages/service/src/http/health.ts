import { Refusal } from '@bathyscribe/contract'
import type { FastifyInstance } from 'fastify'
import { collectDefaultMetrics, Counter, Histogram, Registry } from 'prom-client'
import type { DataSource } from 'typeorm'
import type { Context } from '../desk/context.js'
import { isMigrated, isWritable } from '../records/database.js'
import { findActor } from './caller.js'

/** `/healthz`: the process lives. `/readyz`: it can serve. Begins to count what `/metrics` says. @returns what was counted */
export function registerHealth(app: FastifyInstance, context: Context, database: DataSource): Registry {
  const registry = new Registry()
  collectDefaultMetrics({ register: registry })
  const answered = new Histogram({
    name: 'bathyscribe_http_seconds',
    help: 'Time to answer, by route and status.',
    labelNames: ['method', 'route', 'status'],
    buckets: [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 5],
    registers: [registry],
  })
  const changes = new Counter({
    name: 'bathyscribe_changes_total',
    help: 'Changes by kind, as told to open pages.',
    labelNames: ['kind'],
    registers: [registry],
  })
  new Counter({
    name: 'bathyscribe_diagnosis_total',
    help: 'Causes that were told for refused messages and judged afterwards, by cause and verdict: kept in the records, so every process says the same.',
    labelNames: ['code', 'verdict'],
    registers: [registry],
    async collect() {
      // Where the records are out of reach the rest is said all the same.
      const counted = await context.records.verdicts.counted().catch(() => [])
      this.reset()
      for (const { code, right, rightByItself, wrong, missed } of counted)
        for (const [verdict, count] of Object.entries({ right: right + rightByItself, wrong, missed }))
          this.inc({ code, verdict }, count)
    },
  })
  const publish = context.changes.publish.bind(context.changes)
  context.changes.publish = (change) => {
    changes.inc({ kind: change.kind })
    publish(change)
  }

  app.addHook('onResponse', (request, reply, done) => {
    answered.observe(
      { method: request.method, route: request.routeOptions.url ?? 'none', status: reply.statusCode },
      reply.elapsedTime / 1000,
    )
    done()
  })
  app.get('/healthz', { schema: { hide: true } }, async () => ({ status: 'alive' }))
  app.get('/readyz', { schema: { hide: true } }, async () => {
    if (!(await isMigrated(database)))
      throw new Refusal('service.database_unavailable', 'migrations are missing: run `bathyscribe service migrate`')
    if (!(await isWritable(database))) throw new Refusal('service.database_unavailable', 'nothing can be written')
    return { status: 'ready' }
  })
  return registry
}

/** `/metrics`: Prometheus text, for this machine and for administrators. */
export function registerMetrics(app: FastifyInstance, context: Context, registry: Registry): void {
  app.get('/metrics', { schema: { hide: true } }, async (request, reply) => {
    // A proxy on this machine is local, too; what it passes on is not.
    const passedOn = request.headers['x-forwarded-for'] !== undefined || request.headers.forwarded !== undefined
    const local = !passedOn && /^(127\.|::1$|::ffff:127\.)/.test(request.ip)
    if (!local && (await findActor(context, request))?.siteRole !== 'administrator') throw new Refusal('access.denied')
    return reply.type(registry.contentType).send(await registry.metrics())
  })
}
