import formbody from '@fastify/formbody'
import fastify, { type FastifyInstance, type FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { buttonForm, escape, toolPage, valueTable, type Look } from '../parts/page.js'
import { Sessions } from '../parts/sessions.js'
import { registerSwitches, Switches } from '../parts/switches.js'
import { SEXTANT_FAULTS } from './faults.js'
import { isFramed, Logins, storageCheckPage } from './login.js'
import { metadataOf, proposeChange, registerWith } from './registration.js'
import { clientAssertion, requestToken, unsignedAssertion } from './service-token.js'
import { EXERCISES, newKey, SextantState, type Platform } from './state.js'
import { verifyIdToken, type LaunchClaims } from './verify-token.js'

const LOOK: Look = { name: 'Sextant Bench', ink: '#5a2e4c', ground: '#f5f0f2' }

export interface SextantOptions {
  publicUrl: string
  stateFile?: string
  slowMs?: number
}

/** Sextant Bench, a practice tool of LTI 1.3: numeric exercises, chosen by the instructor at the first launch of each link. */
export async function createSextant(options: SextantOptions): Promise<FastifyInstance> {
  const { publicUrl } = options
  const app = fastify({ bodyLimit: 256 * 1024, forceCloseConnections: true })
  const state = new SextantState(options.stateFile)
  const switches = new Switches(SEXTANT_FAULTS, state.value, () => state.save())
  const logins = new Logins(publicUrl, state, switches, LOOK)
  const sessions = new Sessions<LaunchClaims>()
  /** Launches that are good but for the browser, which the platform's storage has yet to confirm. */
  const unconfirmed = new Sessions<{ claims: LaunchClaims; secret: string }>()
  await app.register(formbody)
  app.setErrorHandler((error, _, reply) => {
    const status = error instanceof LaunchRefused ? error.status : 500
    const text = error instanceof LaunchRefused ? error.message : 'Sextant ran aground on this one.'
    return send(reply, 'Launch refused', '', `<p>${escape(text)}</p>`, status)
  })
  registerSwitches(app, LOOK, switches, options.slowMs ?? 12_000)

  app.get('/', (_, reply) =>
    send(
      reply,
      'For your platform',
      'Skerrow Maritime Academy',
      `<p>LTI 1.3. Give your platform the registration address, or enter these by hand.</p>${valueTable([
        ['Registration address', `${publicUrl}/register`],
        ['Configuration address', `${publicUrl}/config.json`],
        ['Login initiation address', `${publicUrl}/login`],
        ['Redirect address', `${publicUrl}/launch`],
        ['Target link URI', `${publicUrl}/bench`],
        ['Keyset address', `${publicUrl}/keyset`],
      ])}<p>Known platforms: ${state.value.platforms.map((one) => escape(`${one.issuer} (${one.clientId})`)).join(', ') || 'none yet'}.</p>`,
    ),
  )
  app.get('/config.json', (_, reply) => reply.send(metadataOf(publicUrl)))
  app.get('/bench', (_, reply) => send(reply, LOOK.name, '', '<p>Open your exercises from your course.</p>'))
  app.get('/keyset', async (_, reply) => {
    if (switches.does('keyset_gone')) return reply.code(404).send({})
    if (switches.does('keyset_page')) return send(reply, 'Keyset', '', '<p>Coming soon.</p>')
    const keys = await state.publicKeys()
    if (switches.does('keyset_empty')) return reply.send({ keys: [] })
    if (switches.does('keyset_huge'))
      return reply.send({ keys: Array.from({ length: 10_000 }, (_, i) => ({ ...keys[0], n: 'AQ', kid: `k${i}` })) })
    return reply.send({ keys })
  })

  app.get<{ Querystring: Fields }>('/register', async (request, reply) => {
    const { openid_configuration: configuration, registration_token: token } = request.query
    if (!configuration || !token)
      return send(
        reply,
        'Registration',
        '',
        '<p>Give this address to your platform; it opens it with what is needed.</p>',
      )
    const platform = await registerWith(publicUrl, configuration, token)
    state.addPlatform(platform)
    return send(
      reply,
      'Registered',
      '',
      `<p>Sextant Bench is registered with ${escape(platform.issuer)} as ${escape(platform.clientId)}. The platform’s administrator has to approve it.</p><script>(opener || parent).postMessage({ subject: 'org.imsglobal.lti.close' }, '*')</script>`,
    )
  })
  app.post<{ Body: Platform }>('/platforms', async (request, reply) => {
    state.addPlatform(request.body)
    return send(reply, 'Kept', '', '<p>The platform is known now.</p>')
  })

  app.get<{ Querystring: Fields }>('/login', (request, reply) => logins.begin(request.query, request, reply))
  app.post<{ Body: Fields | undefined }>('/login', (request, reply) => logins.begin(request.body ?? {}, request, reply))

  app.post<{ Body: Fields | undefined }>('/launch', async (request, reply) => {
    const fields = request.body ?? {}
    if (fields['error'])
      throw new LaunchRefused(
        400,
        `The platform refused the login: ${fields['error']}: ${fields['error_description'] ?? ''}`,
      )
    const begun = logins.finish(fields['state'])
    const claims = await verifyIdToken(begun.platform, fields['id_token'] ?? '', begun.nonce)
    if (switches.does('reports_error') && claims.returnUrl)
      return reply.redirect(
        `${claims.returnUrl}?${String(new URLSearchParams({ lti_errormsg: 'The bench is closed for repairs.', lti_errorlog: 'bench 7: out of order' }))}`,
      )
    if (logins.cookieMatches(begun, request)) return openBench(reply, claims, sessions.open(claims))
    if (!isFramed(request))
      throw new LaunchRefused(401, 'Your browser did not keep our cookie, so we cannot tell that it is you.')
    const pass = unconfirmed.open({ claims, secret: begun.secret })
    const page = storageCheckPage(LOOK, {
      key: fields['state']!,
      origin: new URL(begun.platform.authorizationUrl).origin,
      pass,
    })
    return reply.type('text/html; charset=utf-8').send(page)
  })
  app.post<{ Body: Fields | undefined }>('/launch/stored', (request, reply) => {
    const waiting = unconfirmed.find(request.body?.['pass'])
    if (!waiting || waiting.secret !== request.body?.['secret'])
      throw new LaunchRefused(401, 'The platform’s storage does not confirm that it is you.')
    return openBench(reply, waiting.claims, sessions.open(waiting.claims))
  })

  app.post<{ Body: Fields | undefined }>('/choose', (request, reply) => {
    const { id, claims } = find(request.body)
    if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors choose exercises.')
    const exercise = EXERCISES.find((one) => one.id === request.body?.['exercise']) ?? EXERCISES[0]!
    state.value.links[linkKey(claims)] = {
      exercise: exercise.id,
      published: request.body?.['publish'] === 'on',
      by: claims.name,
    }
    state.save()
    return openBench(reply, claims, id)
  })
  app.post<{ Body: Fields | undefined }>('/answer', (request, reply) => {
    const { claims } = find(request.body)
    const exercise = exerciseOf(claims)
    const given = Number(request.body?.['answer'])
    const right = exercise !== undefined && Math.abs(given - exercise.answer) <= Math.abs(exercise.answer) * 0.01
    return send(
      reply,
      claims.linkTitle,
      claims.name,
      `<p>${right ? 'Right' : 'Not right'}: you answered ${escape(String(given))}.</p>`,
    )
  })

  app.post('/practice/rotate-keys', async (_, reply) => {
    await state.rotateKeys()
    return reply.send({ keys: await state.publicKeys() })
  })
  app.post<{ Body: Fields | undefined }>('/practice/token', async (request, reply) => {
    const platform = state.value.platforms.at(-1)
    if (!platform) throw new LaunchRefused(409, 'No platform is known yet.')
    const key = switches.does('stale_key') ? await newKey() : await state.signingKey()
    const assertion = switches.does('algorithm_none')
      ? unsignedAssertion(platform)
      : await clientAssertion(platform, key)
    return reply.send(await requestToken(platform, assertion, (request.body?.['scope'] ?? '').split(' ')))
  })
  app.post<{ Body: Fields | undefined }>('/practice/propose', async (request, reply) => {
    const platform = state.value.platforms.at(-1)
    if (!platform) throw new LaunchRefused(409, 'No platform is known yet.')
    return reply.send({
      status: await proposeChange(publicUrl, platform, (request.body?.['scope'] ?? '').split(' ').filter(Boolean)),
    })
  })

  function find(body: Fields | undefined): { id: string; claims: LaunchClaims } {
    const id = body?.['session'] ?? ''
    const claims = sessions.find(id)
    if (!claims) throw new LaunchRefused(403, 'This page is too old. Open the exercise again from your course.')
    return { id, claims }
  }

  function exerciseOf(claims: LaunchClaims) {
    const link = state.value.links[linkKey(claims)]
    return link && (link.published || claims.instructor) ? EXERCISES.find((one) => one.id === link.exercise) : undefined
  }

  function openBench(reply: FastifyReply, claims: LaunchClaims, session: string): FastifyReply {
    const link = state.value.links[linkKey(claims)]
    const exercise = exerciseOf(claims)
    const choice = claims.instructor ? chooser(session, link?.exercise, link?.published ?? false) : ''
    const work = exercise
      ? buttonForm(
          '/answer',
          { session },
          'Answer',
          `<fieldset><legend>${escape(exercise.title)}</legend><p>${escape(exercise.question)}</p><label>Your answer <input type="text" name="answer" required> ${exercise.unit}</label></fieldset>`,
        )
      : `<p>${claims.instructor ? 'Choose what this link shall lead to.' : 'Your instructor has not published an exercise here yet.'}</p>`
    return send(reply, claims.linkTitle, claims.name, `<p>${escape(claims.contextTitle)}</p>${work}${choice}`)
  }

  return app
}

function chooser(session: string, chosen: string | undefined, published: boolean): string {
  const options = EXERCISES.map(
    (one) =>
      `<label><input type="radio" name="exercise" value="${one.id}"${one.id === chosen ? ' checked' : ''} required> ${escape(one.title)}</label>`,
  )
  const publish = `<label><input type="checkbox" name="publish"${published ? ' checked' : ''}> Publish it to learners</label>`
  return buttonForm(
    '/choose',
    { session },
    'Keep this',
    `<fieldset><legend>This link leads to</legend>${options.join('')}${publish}</fieldset>`,
  )
}

function linkKey(claims: LaunchClaims): string {
  return `${claims.deploymentId} ${claims.linkId}`
}

function send(reply: FastifyReply, title: string, who: string, body: string, status = 200): FastifyReply {
  return reply
    .code(status)
    .type('text/html; charset=utf-8')
    .send(toolPage(LOOK, title, who, `<h1>${escape(title)}</h1>${body}`))
}
