import type { FastifyInstance, FastifyReply } from 'fastify'

/** How a tool's end can be a bad place for whoever follows a launch: by mistake, or by malice. */
export const HOSTILE_FAULTS = {
  empty_page: 'Answer launches with an empty page',
  blank_page: 'Answer launches with a page whose script shows nothing',
  login_page: 'Answer launches with a page that asks for a password',
  says_error: 'Answer launches with an error under a good status',
  evil_words: 'Refuse launches in words that are markup',
  redirects_forever: 'Redirect launches in a circle',
  redirects_private: 'Redirect launches into a private network',
  streams_forever: 'Answer launches without end',
  huge_answer: 'Answer launches with a gigabyte',
  breaks_off: 'Break the connection off in the middle of the answer',
  many_cookies: 'Set five hundred cookies',
  endless_script: 'Answer launches with a script that never ends',
  opens_windows: 'Answer launches with a page that opens windows by itself',
  script_fails: 'Answer launches with a page whose script fails',
} as const
export type HostileFault = keyof typeof HOSTILE_FAULTS

const GIGABYTE = 1_073_741_824
const CHUNK = Buffer.alloc(64 * 1024, 'x')
const COOKIES = 500

const page = (title: string, body: string) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${title}</title></head><body>${body}</body></html>`

/** The addresses that some of it leads to. */
export function registerHostile(app: FastifyInstance): void {
  app.get('/round', (_, reply) => reply.redirect('/round'))
}

/** Answers as the first of the faults that is on has it. @returns undefined when none is */
export function answerHostile(reply: FastifyReply, does: (fault: HostileFault) => boolean): FastifyReply | undefined {
  const fault = (Object.keys(ANSWERS) as HostileFault[]).find(does)
  return fault && ANSWERS[fault](reply.type('text/html; charset=utf-8'))
}

const ANSWERS: Record<HostileFault, (reply: FastifyReply) => FastifyReply> = {
  empty_page: (reply) => reply.send(''),
  blank_page: (reply) => reply.send(page('', '<script>document.body.hidden = true</script>')),
  login_page: (reply) =>
    reply.send(page('Welcome', '<h1>Welcome</h1><form><label>Name <input name="n"></label><label>Password <input type="password" name="p"></label></form>')), // oxfmt-ignore
  says_error: (reply) => reply.send(page('Error', '<h1>Something went wrong</h1><p>Please try again later.</p>')),
  evil_words: (reply) =>
    reply.code(403).send(page('No', '<h1>&lt;script&gt;alert(1)&lt;/script&gt;</h1><p>=HYPERLINK("http://10.0.0.1/","x")&#x202e;&lt;img src=x onerror=alert(2)&gt;</p>')), // oxfmt-ignore
  redirects_forever: (reply) => reply.redirect('/round'),
  redirects_private: (reply) => reply.redirect('http://10.1.2.3/'),
  streams_forever: (reply) => pour(reply, Infinity),
  huge_answer: (reply) => pour(reply, GIGABYTE),
  breaks_off(reply) {
    reply.hijack()
    reply.raw.writeHead(200, { 'content-type': 'text/html', 'content-length': '100000' })
    reply.raw.write('<!doctype html><p>We were just about to')
    setTimeout(() => reply.raw.destroy(), 50)
    return reply
  },
  many_cookies(reply) {
    for (let n = 0; n < COOKIES; n++) void reply.header('set-cookie', `c${n}=1; SameSite=None; Secure`)
    return reply.send(page('Crumbs', '<p>Everything in small pieces.</p>'))
  },
  endless_script: (reply) => reply.send(page('Thinking', '<p>Thinking …</p><script>for (;;) {}</script>')),
  opens_windows: (reply) =>
    reply.send(page('Windows', '<p>Look elsewhere.</p><script>open("/round"); open("about:blank")</script>')),
  script_fails: (reply) =>
    reply.send(page('Almost', '<p>Almost there.</p><script>throw new Error("the rigging is gone")</script>')),
}

function pour(reply: FastifyReply, bytes: number): FastifyReply {
  reply.hijack()
  reply.raw.writeHead(200, { 'content-type': 'text/html' })
  let left = bytes
  const more = () => {
    while (left > 0 && !reply.raw.destroyed) {
      left -= CHUNK.length
      if (!reply.raw.write(CHUNK)) return void reply.raw.once('drain', more)
    }
    reply.raw.end()
  }
  reply.raw.on('error', () => undefined)
  more()
  return reply
}
