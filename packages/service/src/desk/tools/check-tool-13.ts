import { Refusal, refusalFacts } from '@bathyscribe/contract'
import { checkInitiation, found, type Found } from '@bathyscribe/core/checks'
import { initiationParameters, writeHints } from '@bathyscribe/core/lti13'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { parametersOf } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { probeInitiation } from '../launches/try-launch-13.js'
import { authorizationUrl } from '../platform/addresses.js'
import { checkCookies, checkScheme } from './check-parts.js'

/** What LTI 1.3 adds to the check of a tool's end: its keyset, and what its initiation address makes of an initiation. */
export async function check13(context: Context, tool: RegistrationRecord): Promise<Found[]> {
  return [await checkEndKeyset(context, tool), ...(await checkLogin(context, tool))]
}

/** @param maxAgeMs how old a reading may be that is taken for now’s */
export async function checkEndKeyset(context: Context, tool: RegistrationRecord, maxAgeMs = 0): Promise<Found> {
  if (tool.publicKeys) return found('keyset', 'pasted', { keys: tool.publicKeys.length })
  try {
    return found('keyset', 'usable', { keys: (await context.toolKeysets.readNow(tool, maxAgeMs)).length })
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return found('keyset', 'unusable', { refusal: refusalFacts(error) })
  }
}

/** Sends an initiation that leads to nobody's launch: its hints are good for no link. */
async function checkLogin(context: Context, tool: RegistrationRecord): Promise<Found[]> {
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
  const scheme = checkScheme('initiation address', new URL(tool.initiationUrl), 'The initiation address')
  const walked = await probeInitiation(context, { url: tool.initiationUrl, fields })
  const { failure, code, status } = walked
  if (failure !== null) return [scheme, found('initiation', 'no_answer', { failure, code })]
  if (status >= 400) return [scheme, found('initiation', 'refused', { status })]
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
