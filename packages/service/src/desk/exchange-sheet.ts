import type { ExchangeSheet } from '@bathyscribe/contract'
import type { RegistrationRecord } from '../records/entities/courses.js'
import type { Context } from './context.js'
import { platformFacts } from './platform.js'

const DISCLOSED = {
  opaque: 'an opaque identifier only',
  name: 'identifier and name',
  email: 'identifier and email',
  name_and_email: 'identifier, name and email',
} as const

/** The two lists of one registration: what the tool's end needs from us, what we hold from it. The secret stays masked. */
export function exchangeSheet(context: Context, tool: RegistrationRecord): ExchangeSheet {
  const platform = platformFacts(context)
  const plain = (label: string, value: string) => ({ label, value, secret: false })
  return {
    toolNeeds: [
      plain('LTI version', '1.1'),
      plain('Outcomes service', `${context.settings.publicUrl}/lti/outcomes`),
      plain('Return address begins with', `${context.settings.publicUrl}/lti/return/`),
      plain('Platform identifier', platform.guid),
      plain('Platform name', platform.name),
      plain('Shown in frames of', new URL(context.settings.publicUrl).origin),
      plain('Signature method', tool.signatureMethod),
      ...(platform.contactEmail ? [plain('Contact', platform.contactEmail)] : []),
    ],
    weHold: [
      plain('Consumer key', tool.consumerKey),
      { label: 'Shared secret', value: tool.secretSealed ? '••••••••' : '(none)', secret: tool.secretSealed !== null },
      plain('Launch address', tool.launchUrl ?? '(each assignment has its own)'),
      plain('Sees of people', DISCLOSED[tool.disclosure]),
      ...Object.entries(tool.customParameters).map(([name, value]) => plain(`Custom parameter ${name}`, value)),
    ],
  }
}
