import type { FastifyInstance, FastifyReply } from 'fastify'
import { toolPage, type Look } from './page.js'

/** What every picker can be told to do wrong, whichever version carries its answer. */
export const PICK_FAULTS = {
  pick_wrong_data: 'Answer pickers with other data than was sent',
  pick_no_url: 'Hand over a file without an address',
  pick_unknown_type: 'Hand over an item of a type that nobody knows',
  pick_many: 'Hand over two hundred items',
  pick_other_points: 'Say other points in the picker than on the page',
  pick_closed: 'Answer pickers with a server error',
  pick_error: 'Come back from the picker with an error message',
} as const

/** What a whole practice tool can be told to do wrong at `/practice`, beside what its links can be told. */
export const TOOL_FAULTS = {
  slow: 'Answer only after twelve seconds',
  error_500: 'Answer with a server error',
  refuses_frames: 'Refuse to be shown in a frame',
  lost_cookies: 'Set cookies that browsers drop in a frame',
  wrong_clock: 'Run ten minutes behind',
  moved_away: 'Send everybody to another host',
} as const

/** Behaviours that are switched on and off for a whole tool. */
export class Switches<F extends string> {
  private on: F[]

  constructor(
    private readonly known: Readonly<Record<F, string>>,
    private readonly kept: { faults?: string[] },
    private readonly save: () => void,
  ) {
    this.on = (kept.faults ?? []).filter((one): one is F => one in known)
  }

  does(fault: F): boolean {
    return this.on.includes(fault)
  }

  set(wanted: readonly string[]): void {
    this.on = wanted.filter((one): one is F => one in this.known)
    this.kept.faults = this.on
    this.save()
  }

  get all(): [F, string, boolean][] {
    return (Object.entries(this.known) as [F, string][]).map(([id, text]) => [id, text, this.on.includes(id)])
  }
}

type Fault = keyof typeof TOOL_FAULTS

/** The page with the switches, and what the general faults do to every other answer. Practice has no lock: it is no place for secrets. */
export function registerSwitches<F extends string>(
  app: FastifyInstance,
  look: Look,
  switches: Switches<F>,
  slowMs: number,
): void {
  const does = (fault: Fault) => switches.does(fault as unknown as F)
  app.addHook('onRequest', async (request, reply) => {
    if (request.url.startsWith('/practice')) return
    if (does('slow')) await new Promise((resolve) => setTimeout(resolve, slowMs))
    if (does('wrong_clock')) void reply.header('date', new Date(Date.now() - 600_000).toUTCString())
    if (does('refuses_frames')) void reply.header('content-security-policy', "frame-ancestors 'none'")
    if (does('lost_cookies')) void reply.header('set-cookie', 'desk=1; Path=/; SameSite=Lax')
    if (does('moved_away')) {
      const elsewhere = `http://localhost:${new URL(`http://${request.headers.host ?? 'localhost'}`).port}${request.url}`
      if (!(request.headers.host ?? '').startsWith('localhost')) await reply.redirect(elsewhere)
    } else if (does('error_500'))
      await reply
        .code(500)
        .type('text/html')
        .send(toolPage(look, 'Server error', '', '<h1>Server error</h1><p>We have sprung a leak.</p>'))
  })

  app.get('/practice', (_, reply) => sendSwitches(reply, look, switches))
  app.post<{ Body: Record<string, string> }>('/practice', (request, reply) => {
    const body = request.body ?? {}
    const listed = (body['faults'] ?? '').split(/[\s,]+/)
    switches.set([...listed, ...Object.keys(body).filter((name) => body[name] === 'on')])
    return sendSwitches(reply, look, switches)
  })
}

function sendSwitches<F extends string>(reply: FastifyReply, look: Look, switches: Switches<F>): FastifyReply {
  const boxes = switches.all.map(
    ([id, text, on]) => `<label><input type="checkbox" name="${id}"${on ? ' checked' : ''}> ${text}</label>`,
  )
  const body = `<h1>Practice: misbehave</h1><p>For the whole tool, until it is switched off again.</p><form method="post" action="/practice"><fieldset>${boxes.join('')}</fieldset><button>Keep these</button></form>`
  return reply.type('text/html; charset=utf-8').send(toolPage(look, 'Practice', '', body))
}
