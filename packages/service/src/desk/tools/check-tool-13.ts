import { checkInitiation, initiationParameters, writeHints } from '@bathyscribe/core/lti13'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { parametersOf } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { probeInitiation } from '../launches/try-launch-13.js'
import { authorizationUrl } from '../platform/addresses.js'
import { checkCookies, checkScheme, found, foundRefusal, type ToolFinding } from './check-parts.js'

/** What LTI 1.3 adds to the check of a tool's end: its keyset, and what its initiation address makes of an initiation. */
export async function check13(context: Context, tool: RegistrationRecord): Promise<ToolFinding[]> {
  return [await checkEndKeyset(context, tool), ...(await checkLogin(context, tool))]
}

/** @param maxAgeMs how old a reading may be that is taken for now’s */
export async function checkEndKeyset(context: Context, tool: RegistrationRecord, maxAgeMs = 0): Promise<ToolFinding> {
  if (tool.publicKeys)
    return found('keyset', 'pass', `${tool.publicKeys.length} keys are pasted here; nothing is fetched.`)
  try {
    const keys = await context.toolKeysets.readNow(tool, maxAgeMs)
    return found(
      'keyset',
      'pass',
      `The keyset answers and holds ${keys.length === 1 ? 'a usable key' : `${keys.length} usable keys`}.`,
    )
  } catch (error) {
    return foundRefusal('keyset', error)
  }
}

/** Sends an initiation that leads to nobody's launch: its hints are good for no link. */
async function checkLogin(context: Context, tool: RegistrationRecord): Promise<ToolFinding[]> {
  if (!tool.initiationUrl || !tool.clientId || !tool.launchUrl) return []
  const deployment = await context.records.tools.mainDeployment(tool.id)
  const hints = writeHints(context.keys.hintKeys[0], {
    id: context.ids.secret(),
    registrationId: tool.id,
    actorId: 'check',
    personId: 'check',
    kind: 'link',
    linkId: 'check',
    target: tool.documentTarget,
    aboutId: '',
    expiresSeconds: Math.floor(context.clock.now().getTime() / 1000),
  })
  const fields = initiationParameters({
    issuer: context.settings.publicUrl,
    clientId: tool.clientId,
    deploymentId: deployment?.id ?? '',
    targetLinkUri: tool.launchUrl,
    hints,
  })
  const scheme = { ...checkScheme(new URL(tool.initiationUrl), 'The initiation address'), check: 'initiation address' }
  const walked = await probeInitiation(context, { url: tool.initiationUrl, fields })
  if (walked.failure !== null) return [scheme, found('initiation', 'fail', walked.failure, walked.hint)]
  if (walked.status >= 400)
    return [
      scheme,
      found(
        'initiation',
        'fail',
        `The initiation address answers ${walked.status}.`,
        'Check at the tool’s end that our issuer, client ID and deployment ID are entered as the exchange sheet has them.',
      ),
    ]
  const findings = checkInitiation(
    walked.stopped ? { url: walked.stopped.url, parameters: parametersOf(walked.stopped) } : undefined,
    {
      authorizationUrl: authorizationUrl(context.settings),
      clientId: tool.clientId,
      redirectUris: tool.redirectUris,
      hints,
    },
  )
  return [scheme, ...findings, ...(tool.documentTarget === 'frame' ? checkCookies(walked.setCookies, context) : [])]
}
