import cookie from '@fastify/cookie'
import csrf from '@fastify/csrf-protection'
import helmet from '@fastify/helmet'
import rateLimit from '@fastify/rate-limit'
import swagger from '@fastify/swagger'
import swaggerUi from '@fastify/swagger-ui'
import { person } from '@bathyscribe/contract'
import fastify, { LogController, type FastifyInstance, type onRequestHookHandler } from 'fastify'
import { jsonSchemaTransform, serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod'
import { randomBytes } from 'node:crypto'
import type { Registry } from 'prom-client'
import type { DataSource } from 'typeorm'
import type { Context } from '../desk/context.js'
import { registerEvents } from './api/events.js'
import { registerOperations } from './api/routes.js'
import { sessionHandlers } from './api/session.js'
import { siteHandlers } from './api/site.js'
import { evidenceHandlers, workHandlers } from './api/work.js'
import { contentHandlers } from './api/content.js'
import { registerFileLinks, registerFiles } from './api/files.js'
import { admit, hostCookie, hostCookieSet } from './caller.js'
import { registerConsole } from './console.js'
import { registerHealth, registerMetrics } from './health.js'
import { registerJsonBodies } from './json-body.js'
import { placeHandlers } from './api/places.js'
import { connectionHandlers } from './api/connections.js'
import { diagnosisHandlers } from './api/diagnosis.js'
import { caseHandlers } from './api/cases.js'
import { mailHandlers } from './api/mail.js'
import { expectationHandlers, registerPictures } from './api/soundings.js'
import { sweepHandlers } from './api/sweeps.js'
import { recordsOfficeHandlers } from './api/records-office.js'
import { signOnHandlers } from './api/sign-on.js'
import { registerSignOn } from './sign-on.js'
import { scoreHandlers } from './api/scores.js'
import { toolHandlers, toolKeyHandlers } from './api/tools.js'
import { registerLaunch, sendRefusedPage } from './lti/launch.js'
import { registerAuthorize } from './lti/authorize.js'
import { registerDiscovery } from './lti/discovery.js'
import { registerRegistration } from './lti/registration.js'
import { registerTokens } from './lti/token.js'
import { registerPickers } from './lti/pickers.js'
import { registerServices } from './lti/services.js'
import { registerOutcomes } from './lti/outcomes.js'
import { refuseUnread, sendProblem, toRefusal } from './problems.js'
import { rationStore } from './ration-store.js'

export interface ServerParts {
  context: Context
  database: DataSource
  /** Folder of the built console. */
  consoleFolder: string
  /** Hands a started sounding to a worker. */
  sound: (soundingId: string) => Promise<void>
}

const BODY_LIMIT = 512 * 1024

/** The HTTP application: protocol endpoints, API, console, health. Listens to nothing yet. */
export async function createServer({ context, database, consoleFolder, sound }: ServerParts): Promise<FastifyInstance> {
  const { settings } = context
  const secure = settings.publicUrl.startsWith('https:')
  const requestPrefix = randomBytes(4).toString('hex')
  let requests = 0
  const app = fastify({
    loggerInstance: context.log,
    logController: new LogController({ disableRequestLogging: true }),
    // A count means proxies, from the right: the left end of the header is the client's own to write.
    trustProxy: Array.isArray(settings.trustProxy)
      ? settings.trustProxy
      : (_, hop) => hop < Number(settings.trustProxy),
    bodyLimit: BODY_LIMIT,
    // A HEAD request must not count as a launch.
    exposeHeadRoutes: false,
    forceCloseConnections: 'idle',
    return503OnClosing: false,
    requestTimeout: 30_000,
    // Whoever begins a thousand requests and finishes none shall not hold a thousand sockets for a minute.
    http: { headersTimeout: 10_000, connectionsCheckingInterval: 2_000 },
    genReqId: () => `${requestPrefix}-${(requests++).toString(36)}`,
    clientErrorHandler: refuseUnread,
    routerOptions: { maxParamLength: 400 },
  })
  app.setValidatorCompiler(validatorCompiler)
  app.setSerializerCompiler(serializerCompiler)
  app.decorateRequest('caller', null)
  app.decorateRequest('sessionId', '')
  app.setErrorHandler((error, request, reply) =>
    request.url.startsWith('/lti/')
      ? sendRefusedPage(error, request, reply)
      : sendProblem(reply, toRefusal(error, request), request.id),
  )

  let isWarned = settings.trustProxy !== 0
  app.addHook('onRequest', (request, reply, done) => {
    if (!isWarned && request.headers['x-forwarded-for'] !== undefined) {
      isWarned = true
      context.log.warn(
        'X-Forwarded-For arrives, but `trustProxy` is 0: everybody behind that proxy counts as one address',
      )
    }
    void reply.header('x-content-type-options', 'nosniff')
    if (secure) void reply.header('strict-transport-security', 'max-age=31536000; includeSubDomains')
    done()
  })
  // Registered first: it is the busiest address, and cookies and page policies are nothing to it.
  const counted = registerHealth(app, context, database)
  await registerOutcomes(app, context)
  // The protocol's own pages bring policies of their own, so what is worked out for every page of the console is spared them.
  await app.register(async (scope) => {
    await scope.register(cookie)
    registerLaunch(scope, context)
    await registerPickers(scope, context)
    registerFileLinks(scope, context)
    await registerAuthorize(scope, context)
  })
  // Between servers there are no cookies.
  await app.register(async (scope) => {
    await registerServices(scope, context)
    registerDiscovery(scope, context)
    await registerTokens(scope, context)
    await registerRegistration(scope, context)
  })

  await app.register((scope) => registerSite(scope, { context, consoleFolder, sound, counted }))
  return app
}

/** API, console and files: what browsers with a session call, under the policies of its pages. In a scope of its own, because hooks of the whole application reach every route. */
async function registerSite(
  scope: FastifyInstance,
  { context, consoleFolder, sound, counted }: Omit<ServerParts, 'database'> & { counted: Registry },
): Promise<void> {
  const secure = context.settings.publicUrl.startsWith('https:')
  await registerPolicies(scope, secure)
  registerJsonBodies(scope)
  await scope.register(cookie, { secret: context.keys.cookieKey })
  await scope.register(csrf, {
    cookieKey: hostCookie(context.settings, 'bathyscribe_csrf'),
    // A token is good for the session that it was given to, and for no other.
    csrfOpts: { hmacKey: context.keys.cookieKey, userInfo: true },
    getUserInfo: (request) => request.sessionId,
    cookieOpts: hostCookieSet(context.settings),
    getToken: (request) => {
      const header = request.headers['x-csrf-token']
      return typeof header === 'string' ? header : undefined
    },
  })
  // Answers are somebody’s own: no cache on the way keeps them.
  scope.addHook('onRequest', (request, reply, done) => {
    if (request.url.startsWith('/api/')) void reply.header('cache-control', 'no-store')
    done()
  })
  await scope.register(rateLimit, { global: false, store: rationStore(context) })
  await registerDescription(scope, context)

  const work = workHandlers(context)
  registerOperations(scope, context, {
    ...sessionHandlers(context),
    ...signOnHandlers(context),
    ...scoreHandlers(context),
    ...recordsOfficeHandlers(context),
    ...connectionHandlers(context),
    ...caseHandlers(context),
    ...mailHandlers(context),
    ...diagnosisHandlers(context),
    ...sweepHandlers(context),
    ...expectationHandlers(context),
    ...siteHandlers(context),
    ...work.handlers,
    ...evidenceHandlers(context, sound),
    ...contentHandlers(context, work.detail),
    ...toolHandlers(context),
    ...toolKeyHandlers(context),
    ...placeHandlers(context),
  })
  await registerFiles(scope, context)
  registerPictures(scope, context)
  await registerSignOn(scope, context)
  registerEvents(scope, context)
  registerMetrics(scope, context, counted)
  registerConsole(scope, consoleFolder)
}

/** What the console’s pages may load, where they may be shown, and what they say of us elsewhere. */
async function registerPolicies(scope: FastifyInstance, secure: boolean): Promise<void> {
  await scope.register(helmet, {
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'"],
        styleSrc: ["'self'"],
        imgSrc: ["'self'", 'data:'],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        frameSrc: ["'self'"],
        formAction: ["'self'"],
        baseUri: ["'none'"],
        frameAncestors: ["'none'"],
      },
    },
    hsts: secure,
    // A tool that registers itself does so in a window of its own, and says there that it has finished.
    crossOriginOpenerPolicy: { policy: 'same-origin-allow-popups' },
    frameguard: false,
    referrerPolicy: { policy: 'same-origin' },
  })
}

/** The description of the API, and pages to read it by. */
async function registerDescription(scope: FastifyInstance, context: Context): Promise<void> {
  await scope.register(swagger, {
    openapi: {
      info: {
        title: 'Bathyscribe',
        version: context.version,
        description: 'Registers external tools, proves launches, and proves that scores come back.',
      },
    },
    transform: jsonSchemaTransform,
  })
  // What the service can do in detail is for people who are signed in, and for their programs.
  const signedIn: onRequestHookHandler = (request, reply, done) =>
    void admit(scope, context, person, request, reply).then(() => done(), done)
  await scope.register(swaggerUi, {
    routePrefix: '/api/docs',
    staticCSP: true,
    theme: { title: 'Bathyscribe API' },
    uiHooks: { onRequest: signedIn },
  })
  scope.get('/api/openapi.json', { schema: { hide: true }, onRequest: signedIn }, async () => scope.swagger())
}
