import { Refusal } from '@bathyscribe/contract'
import { disclose } from '@bathyscribe/core/identity'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import {
  deepLinkingClaims,
  reviewClaims,
  initiationParameters,
  launchClaims,
  writeHints,
  type Claims,
  type Hints,
} from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { pickerFacts } from '../pickers/picker-facts.js'
import { serviceClaims } from '../services/claims.js'
import { commonFacts, type LaunchOptions } from './launch-facts.js'

/** How long a tool's end may take from the initiation to its authorisation request. */
const HINT_SECONDS = 300

/** A login initiation of LTI 1.3, ready to be posted: hints for this person, link and target, once, for five minutes. */
export function prepareLogin(
  context: Context,
  link: Link,
  options: { actorId: string; target?: DocumentTarget | undefined; aboutId?: string },
): { url: string; fields: Parameter[]; hints: Hints; hintId: string } {
  const { registration, resource, person } = link
  if (!registration.initiationUrl || !registration.clientId || !registration.deploymentId || !resource.launchUrl)
    throw new Refusal('tool.incomplete', registration.name)
  const hintId = context.ids.secret()
  const hints = writeHints(context.keys.hintKeys[0], {
    id: hintId,
    registrationId: registration.id,
    actorId: options.actorId,
    personId: person.id,
    kind: resource.kind === 'picker' ? 'picker' : 'link',
    linkId: resource.id,
    target: options.target ?? resource.documentTarget,
    aboutId: options.aboutId ?? '',
    expiresSeconds: Math.floor(context.clock.now().getTime() / 1000) + HINT_SECONDS,
  })
  const fields = initiationParameters({
    issuer: context.settings.publicUrl,
    clientId: registration.clientId,
    deploymentId: registration.deploymentId,
    targetLinkUri: options.aboutId ? reviewUrl(link) : resource.launchUrl,
    hints,
  })
  return { url: registration.initiationUrl, fields, hints, hintId }
}

/** The claims of a launch of LTI 1.3 for the person of `link`. */
export function claimsFor(
  context: Context,
  link: Link,
  nonce: string,
  options: LaunchOptions & { about?: Link | undefined } = {},
): Claims {
  const { registration, resource } = link
  if (!registration.clientId || !registration.deploymentId || !resource.launchUrl)
    throw new Refusal('tool.incomplete', registration.name)
  const { about } = options
  const common = {
    ...commonFacts(context, link, about ? { ...options, extraCustom: resource.review?.custom ?? {} } : options),
    issuer: context.settings.publicUrl,
    clientId: registration.clientId,
    deploymentId: registration.deploymentId,
    nonce,
    nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
    targetLinkUri: about ? reviewUrl(link) : resource.launchUrl,
    services: serviceClaims(context, link),
  }
  if (about)
    return reviewClaims({
      ...common,
      about: {
        person: disclose(about.person, registration.disclosure),
        courseRole: about.enrolment?.role,
        siteRole: about.person.siteRole,
      },
    })
  const asked = pickerFacts(context, link)
  if (asked) return deepLinkingClaims({ ...common, ...asked, acceptsColumn: asked.onlyToolLinks })
  return launchClaims({
    ...common,
    migration:
      registration.consumerKey && registration.secretSealed
        ? {
            consumerKey: registration.consumerKey,
            sharedSecret: context.keys.unseal(registration.secretSealed, registration.id),
          }
        : undefined,
  })
}

/** Where submissions are reviewed: at the column's own address, else where the link itself leads (Submission Review 1.0 section 3.2). */
function reviewUrl({ resource }: Link): string {
  return resource.review?.url ?? resource.launchUrl ?? ''
}
