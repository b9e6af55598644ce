import type { CaseMail } from '../../records/cases.js'
import type { Context } from '../context.js'
import { mailWaiting } from '../mail/mail-waiting.js'

/** Mails letters and reminders that wait. */
export function mailLetters(context: Context): Promise<void> {
  const { records, changes } = context
  return mailWaiting<CaseMail>(context, {
    what: 'a letter',
    about: ({ id }) => ({ letter: id }),
    take: (now, until, most) => records.cases.takeToMail(now, until, most),
    write: ({ to, replyTo, subject, text }) =>
      to === null ? null : { to, replyTo, subject, text: text.endsWith('\n') ? text : `${text}\n` },
    note: async ({ id, assignmentId, personId, courseId }, became) => {
      await records.cases.noteMail(id, became)
      changes.publish({ kind: 'case', assignmentId, personId, courseId })
    },
  })
}
