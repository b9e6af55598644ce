import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import type { Tool13 } from '../lti13/tool13-app.js'

/** An observation of a few seconds is well under it. */
const MOST_BYTES = 8 * 1_048_576

/** What was spoken, as it came: only its kind and its length are shown again. */
interface Recording {
  name: string
  mediaType: string
  bytes: number
}

/** Observations that are spoken before the sky instead of written: recorded in the page, by camera and microphone, and sent whole. */
export class Spoken {
  private readonly recordings = new Map<string, Recording[]>()

  constructor(
    private readonly tool: Pick<Tool13<unknown>, 'find' | 'score'>,
    private readonly points: number,
  ) {}

  serve(app: FastifyInstance): void {
    app.addContentTypeParser(/^(audio|video)\//, { parseAs: 'buffer', bodyLimit: MOST_BYTES }, (_, body, done) =>
      done(null, body),
    )
    app.post<{ Querystring: Fields; Body: Buffer | undefined }>('/spoken', async (request, reply: FastifyReply) => {
      const { claims } = this.tool.find(request.query)
      if (!Buffer.isBuffer(request.body) || request.body.length === 0)
        throw new LaunchRefused(400, 'Nothing was recorded.')
      const recording = {
        name: claims.name,
        mediaType: request.headers['content-type'] ?? '',
        bytes: request.body.length,
      }
      const key = claims.linkId
      this.recordings.set(key, [...(this.recordings.get(key) ?? []), recording].slice(-100))
      const said = claims.instructor ? 'Kept.' : await this.tool.score(claims, 1, this.points)
      return reply.send({ said, bytes: recording.bytes })
    })
    app.get<{ Querystring: { link?: string } }>('/practice/spoken', (request, reply) =>
      reply.send({ recordings: this.recordings.get(request.query.link ?? '') ?? [] }),
    )
  }

  /** The page's own part. It asks for camera and microphone as it opens, as such pages do, so that people see themselves before they begin. */
  markup({ linkId }: LaunchClaims, session: string): string {
    const heard = (this.recordings.get(linkId) ?? []).length
    return `<p>Say what you see: two or three sentences. ${heard} spoken so far.</p>
<video id="seen" width="320" height="240" autoplay muted playsinline></video>
<p id="state" role="status">Asking for camera and microphone …</p>
<p><button id="record" disabled>Record</button> <button id="hand-in" disabled>Hand it in</button></p>
<script>${SCRIPT.replace('SESSION', JSON.stringify(session))}</script>`
  }
}

const SCRIPT = `
const session = SESSION
const state = document.getElementById('state')
const [record, handIn] = [document.getElementById('record'), document.getElementById('hand-in')]
let recorder, parts = []
navigator.mediaDevices.getUserMedia({ audio: true, video: true }).then((stream) => {
  document.getElementById('seen').srcObject = stream
  state.textContent = 'Ready.'
  record.disabled = false
  record.onclick = () => {
    if (recorder && recorder.state === 'recording') return recorder.stop()
    parts = []
    recorder = new MediaRecorder(stream)
    recorder.ondataavailable = (event) => parts.push(event.data)
    recorder.onstop = () => {
      record.textContent = 'Record again'
      state.textContent = 'Recorded.'
      handIn.disabled = false
    }
    recorder.start()
    record.textContent = 'Stop'
    state.textContent = 'Recording …'
  }
  handIn.onclick = async () => {
    const recording = new Blob(parts, { type: recorder.mimeType })
    const answer = await fetch('/spoken?session=' + encodeURIComponent(session), { method: 'POST', headers: { 'content-type': recording.type }, body: recording })
    state.textContent = answer.ok ? (await answer.json()).said : 'It was not taken.'
  }
}).catch((error) => (state.textContent = 'This page may use neither camera nor microphone (' + error.name + ').'))
`
