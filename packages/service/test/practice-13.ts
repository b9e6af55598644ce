import type { Tool } from '@bathyscribe/contract'
import type { AddressInfo } from 'node:net'
import type { FastifyInstance } from 'fastify'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { closeAfterwards } from './closing.js'
import { openForm, type TestAcademy, type Visitor } from './harness.js'

type Maker = (options: { publicUrl: string }) => Promise<FastifyInstance>

/** A practice tool beside an academy, registered on both sides. */
export interface Practice {
  url: string
  slug: string
  /** Opens a link as a person, all the way into the tool. @returns its page, and a way to send the forms on it */
  enter: (who: Visitor, link: string, path?: string) => Promise<Page>
  faults: (...names: string[]) => Promise<void>
}
export interface Page {
  html: string
  post: (path: string, fields?: Record<string, string>) => Promise<Page>
}

export async function startPractice(
  academy: TestAcademy,
  name: string,
  make: Maker,
  scopes: readonly string[],
  paths: { target: string },
  more: { features?: string[]; pickerUrl?: string } = {},
): Promise<Practice> {
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  const app = await make({ publicUrl: url })
  await app.listen({ host: '127.0.0.1', port })
  if ((app.server.address() as AddressInfo).port !== port) throw new Error('The port was taken.')
  closeAfterwards(() => app.close())
  const tool = await registerPractice(academy, name, url, scopes, paths, more)
  const form = (body: Record<string, string>) => ({
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
    body: String(new URLSearchParams(body)),
    redirect: 'manual' as const,
  })
  const pageOf = (html: string): Page => ({
    html,
    post: async (path, fields = {}) => {
      const session = /name="session" value="([^"]+)"/.exec(html)?.[1] ?? ''
      return pageOf(await (await fetch(`${url}${path}`, form({ session, ...fields }))).text())
    },
  })
  const hidden = (html: string) =>
    Object.fromEntries(
      [...html.matchAll(/<input type="hidden" name="([^"]*)" value="([^"]*)"/g)].map(([, key, value]) => [
        key!,
        value!.replaceAll('&amp;', '&'),
      ]),
    )
  return {
    url,
    slug: tool.slug,
    faults: async (...names) => {
      await post(`${url}/practice`, { faults: names.join(' ') })
    },
    async enter(who, link, path) {
      const begun = path ? await (await who.send(path)).text() : (await openForm(who, link)).page
      const login = await fetch(`${url}/login`, form(hidden(begun)))
      const cookies = login.headers
        .getSetCookie()
        .map((one) => one.split(';')[0])
        .join('; ')
      const asked = new URL(login.headers.get('location') ?? '')
      const answer = await (await who.send(`${asked.pathname}${asked.search}`)).text()
      const launched = await fetch(`${url}/launch`, {
        ...form(hidden(answer)),
        headers: { 'content-type': 'application/x-www-form-urlencoded', cookie: cookies },
      })
      return pageOf(await launched.text())
    },
  }
}

const post = (url: string, body: unknown) =>
  fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })

/** Registers a running practice tool on both sides; once more when it is known already. */
export async function registerPractice(
  academy: TestAcademy,
  name: string,
  url: string,
  scopes: readonly string[],
  paths: { target: string },
  more: { features?: string[]; pickerUrl?: string; secondReason?: string } = {},
): Promise<Tool> {
  const tool = await academy.admin.client.call('registerTool', {
    body: {
      name,
      version: '1.3',
      launchUrl: `${url}${paths.target}`,
      initiationUrl: `${url}/login`,
      redirectUris: [`${url}/launch`],
      keysetUrl: `${url}/keyset`,
      scopes: [...scopes] as never,
      disclosure: 'name',
      soundingParameters: { practice_score: '0.645' },
      ...(more.secondReason && { secondReason: more.secondReason }),
      ...(more.features && { features: more.features as never }),
      ...(more.pickerUrl && { pickerUrl: `${url}${more.pickerUrl}` }),
    },
  })
  const [deployment] = await academy.query<{ id: string }>(`select id from deployment where registration_id = $1`, [
    tool.id,
  ])
  await post(`${url}/platforms`, {
    issuer: academy.url,
    clientId: tool.clientId,
    deploymentId: deployment!.id,
    authorizationUrl: `${academy.url}/lti/authorize`,
    tokenUrl: `${academy.url}/lti/token`,
    keysetUrl: `${academy.url}/lti/keyset`,
  })
  return tool
}
