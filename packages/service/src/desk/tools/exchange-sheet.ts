import type { ExchangeSheet } from '@bathyscribe/contract'
import { SCOPES, type Scope } from '@bathyscribe/core/lti13'
import type { DeploymentRecord, RegistrationRecord } from '../../records/entities/tools.js'
import type { Context } from '../context.js'
import { authorizationUrl, outcomesUrl, platformFacts, tokenUrl } from '../platform/addresses.js'

const DISCLOSED = {
  opaque: 'an opaque identifier only',
  name: 'identifier and name',
  email: 'identifier and email',
  name_and_email: 'identifier, name and email',
} as const

type Line = ExchangeSheet['toolNeeds'][number]
const plain = (label: string, value: string): Line => ({ label, value, secret: false })

/** The two lists of one registration: what the tool's end needs from us, what we hold from it. The secret stays masked. */
export async function exchangeSheet(context: Context, tool: RegistrationRecord): Promise<ExchangeSheet> {
  const { settings } = context
  const platform = platformFacts(context)
  const common = [
    plain('Return address begins with', `${settings.publicUrl}/lti/return/`),
    plain('Platform identifier', platform.guid),
    plain('Platform name', platform.name),
    plain('Shown in frames of', new URL(settings.publicUrl).origin),
    ...(platform.contactEmail ? [plain('Contact', platform.contactEmail)] : []),
  ]
  const held = [
    plain('Personal data it sees', DISCLOSED[tool.disclosure]),
    ...Object.entries(tool.customParameters).map(([name, value]) => plain(`Custom parameter ${name}`, value)),
  ]
  return tool.version === '1.3'
    ? {
        toolNeeds: [...for13(context, tool, await context.records.tools.deployments(tool.id)), ...common],
        weHold: [...from13(tool), ...pairOf(tool), ...published(tool), ...held],
      }
    : {
        toolNeeds: [
          plain('LTI version', '1.1'),
          plain('Outcomes service', outcomesUrl(settings)),
          plain('Signature method', tool.signatureMethod),
          ...common,
        ],
        weHold: [
          ...pairOf(tool),
          plain('Launch address', tool.launchUrl ?? '(each link has its own)'),
          ...published(tool),
          ...held,
        ],
      }
}

function for13({ settings }: Context, tool: RegistrationRecord, deployments: readonly DeploymentRecord[]): Line[] {
  return [
    plain('LTI version', '1.3'),
    plain('Issuer', settings.publicUrl),
    plain('Client ID', tool.clientId ?? ''),
    ...deployments.map((one, i) =>
      plain(deployments.length > 1 ? `Deployment ID ${i + 1}, ${one.label}` : 'Deployment ID', one.id),
    ),
    plain('Authorisation address', authorizationUrl(settings)),
    plain('Token address', tokenUrl(settings)),
    plain('Keyset address', `${settings.publicUrl}/lti/keyset`),
    plain('Configuration address', `${settings.publicUrl}/.well-known/openid-configuration`),
    ...tool.scopes.map((scope) => plain(`Granted: ${SCOPES[scope as Scope] ?? 'unknown'}`, scope)),
  ]
}

function from13(tool: RegistrationRecord): Line[] {
  return [
    plain('Login initiation address', tool.initiationUrl ?? '(none)'),
    ...tool.redirectUris.map((one) => plain('Redirect address', one)),
    plain('Target link URI', tool.launchUrl ?? '(none)'),
    plain(
      'Keyset',
      tool.publicKeys
        ? `${tool.publicKeys.length} keys, pasted: ${tool.publicKeys.map((key) => key.kid).join(', ')}`
        : (tool.keysetUrl ?? '(none)'),
    ),
  ]
}

function published(tool: RegistrationRecord): Line[] {
  return tool.configurationUrl ? [plain('Configuration address', tool.configurationUrl)] : []
}

function pairOf(tool: RegistrationRecord): Line[] {
  if (tool.version === '1.3' && !tool.consumerKey) return []
  return [
    plain('Consumer key', tool.consumerKey ?? '(none)'),
    { label: 'Shared secret', value: tool.secretSealed ? '••••••••' : '(none)', secret: tool.secretSealed !== null },
  ]
}
