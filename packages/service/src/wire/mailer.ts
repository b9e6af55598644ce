import { createTransport } from 'nodemailer'
import type { Settings } from '../settings/settings.js'

export interface Mail {
  to: string
  /** Where an answer goes, when not to the house. */
  replyTo?: string | null
  subject: string
  text: string
}
export interface Mailer {
  /** @throws Error with what the server said, when it does not take it */
  send(mail: Mail): Promise<void>
}

const PATIENCE_MS = 15_000

/** Hands mail to the operator's server. @returns null when none is set */
export function createMailer(settings: Settings): Mailer | null {
  if (settings.smtpUrl === '') return null
  const from = settings.mailFrom || settings.contactEmail || `bathyscribe@${new URL(settings.publicUrl).hostname}`
  const transport = createTransport({
    url: settings.smtpUrl,
    connectionTimeout: PATIENCE_MS,
    greetingTimeout: PATIENCE_MS,
    socketTimeout: PATIENCE_MS,
    // A message is what we wrote, never a file or an address that somebody’s title names.
    disableFileAccess: true,
    disableUrlAccess: true,
  })
  return {
    async send({ to, replyTo, subject, text }) {
      await transport.sendMail({
        from,
        to,
        ...(replyTo && { replyTo }),
        subject,
        text,
        // RFC 3834: nobody’s absence note answers it.
        headers: { 'Auto-Submitted': 'auto-generated' },
      })
    },
  }
}
