import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import type { About } from '../lti13/registration.js'
import { createTool13, linkKey, type Tool13, type Tool13Options, type Tool13Parts } from '../lti13/tool13-app.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import { buttonForm, escape, type Look } from '../parts/page.js'

const LOOK: Look = { name: 'Lantern Margins', ink: '#6b4a1f', ground: '#f7f2e8' }
const GROUPS_SCOPE = 'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly'
const GROUPS_CLAIM = 'https://purl.imsglobal.org/spec/lti-gs/claim/groupsservice'
const FILES_SCOPE = 'urn:bathyscribe:scope:coursefiles.readonly'
const FILES_CLAIM = 'urn:bathyscribe:claim:coursefiles'
const ABOUT: About = {
  name: LOOK.name,
  description: 'Chart corrections filed to a file of the course, on one list for all or one list a group.',
  target: '/margins',
  picker: '/desk',
  scopes: [GROUPS_SCOPE, FILES_SCOPE],
  claims: ['sub', 'name'],
  placements: ['ContentArea', 'RichTextEditor'],
}
const MOST_SHOWN = 20_000

interface LanternLink {
  corrections: Record<string, { name: string; text: string }[]>
}
interface CourseFile {
  id: string
  name: string
  media_type: string
  bytes: number
  href: string
}

/** Lantern Margins, a practice tool of LTI 1.3: chart corrections filed to a course file, read through the platform's file and group services. */
export function createLantern(options: Tool13Options): Promise<FastifyInstance> {
  return createTool13<LanternLink>(options, (tool) => new Lantern(tool, options).parts())
}

class Lantern {
  constructor(
    private readonly tool: Tool13<LanternLink>,
    private readonly options: Tool13Options,
  ) {}

  parts(): Tool13Parts {
    this.pickingRoutes()
    this.correctionsRoutes()
    return {
      look: LOOK,
      about: ABOUT,
      onLaunch: (claims, session, reply) => this.openList(claims, session, reply),
      onPick: (claims, session, reply) => this.openDesk(claims, session, reply),
    }
  }

  private pickingRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/desk/take', async (request, reply) => {
      const { claims } = this.tool.find(request.body)
      const file = (await this.filesOf(claims)).find((one) => one.id === request.body?.['file'])
      const byGroup = request.body?.['by'] === 'group'
      const items = file
        ? [
            {
              type: 'ltiResourceLink',
              title: `Corrections to ${file.name}`,
              url: `${this.options.publicUrl}/margins`,
              custom: { file: file.id, by: byGroup ? 'group' : 'all' },
              ...(claims.picking?.columns && {
                lineItem: { label: `Corrections to ${file.name}`, scoreMaximum: 10, resourceId: file.id },
              }),
              iframe: {},
            },
          ]
        : []
      return this.tool.answer(reply, claims, items)
    })
  }

  private correctionsRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/correct', async (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      const text = (request.body?.['text'] ?? '').trim().slice(0, 1000)
      const link = (this.tool.state.value.links[linkKey(claims)] ??= { corrections: {} })
      if (text) (link.corrections[await this.listOf(claims)] ??= []).push({ name: claims.name, text })
      this.tool.state.save()
      return this.openList(claims, id, reply)
    })
  }

  private async read<T>(
    claims: LaunchClaims,
    claim: string,
    field: string,
    scope: string,
    query = '',
  ): Promise<T | undefined> {
    const service = claims.all[claim] as Record<string, unknown> | undefined
    const url = service?.[field]
    if (typeof url !== 'string') return undefined
    const response = await fetch(`${url}${query}`, {
      headers: { authorization: `Bearer ${await this.tool.token([scope])}` },
    })
    if (!response.ok) throw new LaunchRefused(502, `The platform’s service answered ${response.status}.`)
    return (await response.json()) as T
  }

  private async filesOf(claims: LaunchClaims) {
    return (await this.read<{ files: CourseFile[] }>(claims, FILES_CLAIM, 'files_url', FILES_SCOPE))?.files ?? []
  }

  private async groupsOf(claims: LaunchClaims) {
    return (
      (
        await this.read<{ groups: { id: string; name: string }[] }>(
          claims,
          GROUPS_CLAIM,
          'context_groups_url',
          GROUPS_SCOPE,
          `?user_id=${encodeURIComponent(claims.sub)}`,
        )
      )?.groups ?? []
    )
  }

  /** Which list a person sees: the one for all, or that of the own group. */
  private async listOf(claims: LaunchClaims): Promise<string> {
    if (claims.custom['by'] !== 'group') return 'all'
    return (await this.groupsOf(claims))[0]?.id ?? 'no group'
  }

  private async openList(claims: LaunchClaims, session: string, reply: FastifyReply): Promise<FastifyReply> {
    const file = (await this.filesOf(claims)).find((one) => one.id === claims.custom['file'])
    if (!file)
      return this.tool.send(
        reply,
        claims.linkTitle,
        claims.name,
        '<p>No file of the course is chosen for these corrections. Ask your instructor to choose one.</p>',
      )
    const list = await this.listOf(claims)
    const text = file.media_type.startsWith('text/') ? (await (await fetch(file.href)).text()).slice(0, MOST_SHOWN) : ''
    const corrections = (this.tool.state.value.links[linkKey(claims)]?.corrections[list] ?? [])
      .map((one) => `<p><strong>${escape(one.name)}</strong>: ${escape(one.text)}</p>`)
      .join('')
    return this.tool.send(
      reply,
      file.name,
      claims.name,
      `<p>${claims.custom['by'] === 'group' ? `List of your group (${escape(list)})` : 'One list for all'} · ${file.bytes} bytes</p>
         ${text ? `<pre>${escape(text)}</pre>` : '<p>This file is read beside the page.</p>'}${corrections || '<p>Nothing has been corrected yet.</p>'}
         ${buttonForm('/correct', { session }, 'File it', '<label>Your correction <input type="text" name="text" required></label>')}`,
    )
  }

  private async openDesk(claims: LaunchClaims, session: string, reply: FastifyReply): Promise<FastifyReply> {
    const files = await this.filesOf(claims)
    if (files.length === 0)
      return this.tool.send(
        reply,
        'No files yet',
        claims.name,
        `<p>Put a file into the course first, then come back.</p>${buttonForm('/desk/take', { session }, 'Go back')}`,
      )
    const lines = files.map(
      (one, i) =>
        `<label><input type="radio" name="file" value="${escape(one.id)}"${i === 0 ? ' checked' : ''}> ${escape(one.name)}</label>`,
    )
    return this.tool.send(
      reply,
      'Which file?',
      claims.name,
      buttonForm(
        '/desk/take',
        { session },
        'Take this file',
        `<fieldset><legend>File to correct, and who shares its list</legend>${lines.join('')}<label><input type="radio" name="by" value="all" checked> one list for all</label><label><input type="radio" name="by" value="group"> one list a group</label></fieldset>`,
      ),
    )
  }
}
