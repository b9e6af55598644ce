import {
  judgeHandshake,
  probeCredentials,
  Probes,
  type Found,
  type ProbeCredentials,
  type ToolAnswer,
} from '@bathyscribe/core/checks'
import { signLaunch } from '@bathyscribe/core/lti1'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { NO_LINK } from '../../records/statements/messages.js'
import { answerKept, followLaunch } from '../../wire/follow-launch.js'
import { maskParameters } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { likeliestOther } from '../diagnosis/known.js'

/** Whether both ends of LTI 1.1 hold the same key and secret, found out by messages that name no link and no person. */
export async function checkCredentials11(context: Context, tool: RegistrationRecord): Promise<Found[]> {
  if (!tool.consumerKey || !tool.secretSealed || !tool.launchUrl) return []
  const held = { consumerKey: tool.consumerKey, sharedSecret: context.keys.unseal(tool.secretSealed, tool.id) }
  const real = await send(context, tool, held, 'Handshake')
  const credentials = probeCredentials(held, context.ids.secret(), await likeliestOther(context, tool.id))
  const probes = new Probes(real, credentials, (probe, changed) =>
    send(context, tool, changed, `Probe “${probe.replaceAll('_', ' ')}”`),
  )
  return [await judgeHandshake(real, probes, tool.consumerKey)]
}

async function send(
  context: Context,
  tool: RegistrationRecord,
  credentials: ProbeCredentials,
  label: string,
): Promise<ToolAnswer> {
  const fields = signLaunch(
    tool.launchUrl!,
    [
      ['lti_message_type', 'basic-lti-launch-request'],
      ['lti_version', 'LTI-1p0'],
    ],
    {
      ...credentials,
      signatureMethod: tool.signatureMethod,
      timestampSeconds: Math.floor(context.clock.now().getTime() / 1000),
      nonce: context.ids.secret(),
    },
  )
  const followed = await followLaunch(context.outgoing, {
    url: tool.launchUrl!,
    fields,
    returnUrl: `${context.settings.publicUrl}/lti/return/`,
  })
  await context.statements.writeMessage({
    ...NO_LINK,
    at: context.clock.now(),
    kind: 'probe',
    direction: 'sent',
    outcome: followed.failure === null ? 'accepted' : 'failed',
    code: followed.code,
    detail: null,
    statement: `${label}: ${followed.failure ?? `the tool answered ${followed.status}.`}`,
    registrationId: tool.id,
    courseId: tool.courseId,
    durationMs: followed.durationMs,
    request: { method: 'POST', url: tool.launchUrl!, parameters: maskParameters(fields) },
    response: answerKept(followed),
  })
  return followed
}
