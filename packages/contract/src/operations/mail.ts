import * as mail from '../resources/mail.js'
import { person, teaching } from './access.js'
import { define } from './define.js'

/** Calls about the digest of Watch that a person may have by mail. */
export const mailOperations = {
  showMailDigest: define('mail', 'GET /api/mail-digest', 'How often you are mailed what needs you', {
    access: person,
    answer: mail.MailDigest,
  }),
  changeMailDigest: define('mail', 'PUT /api/mail-digest', 'Sets how often you are mailed what needs you', {
    access: { who: 'person', scope: teaching.scope },
    body: mail.MailDigestChange,
    answer: mail.MailDigest,
  }),
  sendMailDigest: define('mail', 'POST /api/mail-digest/now', 'Mails you now what needs you', {
    access: { who: 'person', scope: teaching.scope },
    answer: mail.MailDigest,
  }),
} as const
