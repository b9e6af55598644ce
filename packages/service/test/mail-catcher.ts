import { SMTPServer } from 'smtp-server'
import { closeAfterwards } from './closing.js'

/** A mail server that keeps what it is handed. */
export function startCatcher() {
  const caught: { to: string[]; text: string }[] = []
  const state = { refuses: false }
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    onRcptTo: (_to, _session, done) => done(state.refuses ? new Error('552 the post room is closed') : null),
    onData(stream, session, done) {
      const parts: Buffer[] = []
      stream.on('data', (part: Buffer) => parts.push(part))
      stream.on('end', () => {
        caught.push({
          to: session.envelope.rcptTo.map(({ address }) => address),
          text: Buffer.concat(parts).toString('utf8'),
        })
        done()
      })
    },
  })
  return new Promise<{ caught: typeof caught; state: typeof state; url: string }>((resolve) => {
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.server.address() as { port: number }
      resolve({ caught, state, url: `smtp://127.0.0.1:${port}` })
    })
    closeAfterwards(() => new Promise<void>((closed) => server.close(() => closed())))
  })
}
