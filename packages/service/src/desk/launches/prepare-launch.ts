import { Refusal } from '@bathyscribe/contract'
import { isScored } from '@bathyscribe/core/identity'
import { launchParameters, pickerParameters, signLaunch } from '@bathyscribe/core/lti1'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { outcomesUrl } from '../platform/addresses.js'
import { pickerFacts } from '../pickers/picker-facts.js'
import { commonFacts, type LaunchOptions } from './launch-facts.js'

/** A form ready to be posted, by a browser or by the service itself. */
export interface PreparedLaunch {
  url: string
  fields: Parameter[]
  returnUrl: string
}

/** Builds and signs a launch of LTI 1.1 for the person of `link`. Checks nothing: `launchObstacle` does. @throws Refusal without secret or address. */
export function prepareLaunch(context: Context, link: Link, options: LaunchOptions = {}): PreparedLaunch {
  const { resource, registration } = link
  if (resource.launchUrl === null) throw new Refusal('launch.no_address')
  const facts = commonFacts(context, link, options)
  const asked = pickerFacts(context, link)
  const parameters = asked
    ? pickerParameters({ ...facts, ...asked })
    : launchParameters({
        ...facts,
        outcome: returnsScores(link)
          ? {
              serviceUrl: outcomesUrl(context.settings),
              resultId: isScored(facts.courseRole) ? facts.resultId : null,
            }
          : undefined,
      })
  const fields = signLaunch(resource.launchUrl, parameters, {
    ...(options.credentials ?? heldCredentials(context, link)),
    signatureMethod: registration.signatureMethod,
    timestampSeconds: Math.floor(context.clock.now().getTime() / 1000),
    nonce: context.ids.secret(),
  })
  if (registration.secretSealed && !options.credentials)
    context.keyUses.note(registration.id, registration.secretSealed, context.clock.now())
  return { url: resource.launchUrl, fields, returnUrl: facts.presentation.returnUrl }
}

/** Only an assignment has a column, and only a registration whose key is for scores fills it. */
function returnsScores({ resource, registration }: Link): boolean {
  return resource.kind === 'assignment' && registration.features.includes('scores')
}

export function heldCredentials(
  context: Context,
  { registration }: Link,
): { consumerKey: string; sharedSecret: string } {
  if (registration.secretSealed === null) throw new Refusal('tool.secret_missing')
  return {
    consumerKey: registration.consumerKey ?? '',
    sharedSecret: context.keys.unseal(registration.secretSealed, registration.id),
  }
}
