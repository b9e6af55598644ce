import fastifyStatic from '@fastify/static'
import { Refusal } from '@bathyscribe/contract'
import type { FastifyInstance } from 'fastify'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

const SERVICE_PATHS = /^\/(api|lti|healthz|readyz|metrics)(\/|$|\?)/

/** Serves the console's built files; every other page address of a browser is the console's own to answer. */
export function registerConsole(app: FastifyInstance, folder: string): void {
  const index = join(folder, 'index.html')
  const built = existsSync(index)
  if (built)
    void app.register(fastifyStatic, {
      root: join(folder, 'assets'),
      prefix: '/assets/',
      immutable: true,
      maxAge: '365d',
      decorateReply: false,
    })
  const page = built ? readFileSync(index, 'utf8') : undefined
  const icon = built ? readFileSync(join(folder, 'icon.svg'), 'utf8') : ''
  if (built)
    app.get('/icon.svg', (_, reply) =>
      reply.type('image/svg+xml').header('cache-control', 'public, max-age=3600').send(icon),
    )

  app.setNotFoundHandler((request, reply) => {
    const isPage =
      request.method === 'GET' &&
      !SERVICE_PATHS.test(request.url) &&
      (request.headers.accept ?? '').includes('text/html')
    if (!isPage || page === undefined) throw new Refusal('request.not_found')
    return reply.type('text/html; charset=utf-8').header('cache-control', 'no-cache').send(page)
  })
}
