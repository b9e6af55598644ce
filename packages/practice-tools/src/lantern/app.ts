import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import type { About } from '../lti13/registration.js'
import { createTool13, linkKey, type Tool13Options } from '../lti13/tool13-app.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import { buttonForm, escape, type Look } from '../parts/page.js'

const LOOK: Look = { name: 'Lantern Margins', ink: '#6b4a1f', ground: '#f7f2e8' }
const GROUPS_SCOPE = 'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly'
const GROUPS_CLAIM = 'https://purl.imsglobal.org/spec/lti-gs/claim/groupsservice'
const FILES_SCOPE = 'urn:bathyscribe:scope:coursefiles.readonly'
const FILES_CLAIM = 'urn:bathyscribe:claim:coursefiles'
const ABOUT: About = {
  name: LOOK.name,
  description: 'Shared notes in the margins of a file of the course, for all or by group.',
  target: '/margins',
  picker: '/desk',
  scopes: [GROUPS_SCOPE, FILES_SCOPE],
  claims: ['sub', 'name'],
  placements: ['ContentArea', 'RichTextEditor'],
}
const MOST_SHOWN = 20_000

interface LanternLink {
  notes: Record<string, { name: string; text: string }[]>
}
interface CourseFile {
  id: string
  name: string
  media_type: string
  bytes: number
  href: string
}

/** Lantern Margins, a practice tool of LTI 1.3: notes beside a course file, read through the platform's file and group services. */
export function createLantern(options: Tool13Options): Promise<FastifyInstance> {
  return createTool13<LanternLink>(options, (tool) => {
    const { app, state, send } = tool

    async function read<T>(
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
        headers: { authorization: `Bearer ${await tool.token([scope])}` },
      })
      if (!response.ok) throw new LaunchRefused(502, `The platform’s service answered ${response.status}.`)
      return (await response.json()) as T
    }
    const filesOf = async (claims: LaunchClaims) =>
      (await read<{ files: CourseFile[] }>(claims, FILES_CLAIM, 'files_url', FILES_SCOPE))?.files ?? []
    const groupsOf = async (claims: LaunchClaims) =>
      (
        await read<{ groups: { id: string; name: string }[] }>(
          claims,
          GROUPS_CLAIM,
          'context_groups_url',
          GROUPS_SCOPE,
          `?user_id=${encodeURIComponent(claims.sub)}`,
        )
      )?.groups ?? []

    app.post<{ Body: Fields | undefined }>('/desk/take', async (request, reply) => {
      const { claims } = tool.find(request.body)
      const file = (await filesOf(claims)).find((one) => one.id === request.body?.['file'])
      const byGroup = request.body?.['by'] === 'group'
      const items = file
        ? [
            {
              type: 'ltiResourceLink',
              title: `Notes on ${file.name}`,
              url: `${options.publicUrl}/margins`,
              custom: { file: file.id, by: byGroup ? 'group' : 'all' },
              ...(claims.picking?.columns && {
                lineItem: { label: `Notes on ${file.name}`, scoreMaximum: 10, resourceId: file.id },
              }),
              iframe: {},
            },
          ]
        : []
      return tool.answer(reply, claims, items)
    })
    app.post<{ Body: Fields | undefined }>('/note', async (request, reply) => {
      const { id, claims } = tool.find(request.body)
      const text = (request.body?.['text'] ?? '').trim().slice(0, 1000)
      const link = (state.value.links[linkKey(claims)] ??= { notes: {} })
      if (text) (link.notes[await marginOf(claims)] ??= []).push({ name: claims.name, text })
      state.save()
      return openMargins(claims, id, reply)
    })

    /** Whose notes a person sees: everybody's, or those of the own group. */
    async function marginOf(claims: LaunchClaims): Promise<string> {
      if (claims.custom['by'] !== 'group') return 'all'
      return (await groupsOf(claims))[0]?.id ?? 'no group'
    }

    async function openMargins(claims: LaunchClaims, session: string, reply: FastifyReply): Promise<FastifyReply> {
      const file = (await filesOf(claims)).find((one) => one.id === claims.custom['file'])
      if (!file)
        return send(
          reply,
          claims.linkTitle,
          claims.name,
          '<p>No file of the course is chosen for these margins. Let your instructor choose one.</p>',
        )
      const margin = await marginOf(claims)
      const text = file.media_type.startsWith('text/')
        ? (await (await fetch(file.href)).text()).slice(0, MOST_SHOWN)
        : ''
      const notes = (state.value.links[linkKey(claims)]?.notes[margin] ?? [])
        .map((one) => `<p><strong>${escape(one.name)}</strong>: ${escape(one.text)}</p>`)
        .join('')
      return send(
        reply,
        file.name,
        claims.name,
        `<p>${claims.custom['by'] === 'group' ? `Notes of your group (${escape(margin)})` : 'Notes of everybody'} · ${file.bytes} bytes</p>
         ${text ? `<pre>${escape(text)}</pre>` : '<p>This file is read beside the page.</p>'}${notes || '<p>The margins are empty.</p>'}
         ${buttonForm('/note', { session }, 'Write it', '<label>Your note <input type="text" name="text" required></label>')}`,
      )
    }

    async function openDesk(claims: LaunchClaims, session: string, reply: FastifyReply): Promise<FastifyReply> {
      const files = await filesOf(claims)
      if (files.length === 0)
        return send(
          reply,
          'No files yet',
          claims.name,
          `<p>Put a file into the course first, then come back.</p>${buttonForm('/desk/take', { session }, 'Go back')}`,
        )
      const lines = files.map(
        (one, i) =>
          `<label><input type="radio" name="file" value="${escape(one.id)}"${i === 0 ? ' checked' : ''}> ${escape(one.name)}</label>`,
      )
      return send(
        reply,
        'Which file?',
        claims.name,
        buttonForm(
          '/desk/take',
          { session },
          'Open its margins',
          `<fieldset><legend>Files of the course</legend>${lines.join('')}</fieldset><fieldset><legend>Notes</legend><label><input type="radio" name="by" value="all" checked> for everybody</label><label><input type="radio" name="by" value="group"> by group</label></fieldset>`,
        ),
      )
    }

    return { look: LOOK, about: ABOUT, onLaunch: openMargins, onPick: openDesk }
  })
}
