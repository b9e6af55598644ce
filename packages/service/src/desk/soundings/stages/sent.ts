import { found, type Found } from '@bathyscribe/core/checks'
import type { SentFacts as ObjectedTo } from '@bathyscribe/core/diagnosis'
import { CLAIM } from '@bathyscribe/core/lti13'
import { checkSentClaims, checkSentParameters, type SentFacts } from '@bathyscribe/core/sent'
import type { Link } from '../../../records/statements/links.js'
import type { TriedLaunch } from '../../launches/try-launch.js'
import type { Run } from './run.js'

/** Holds what we sent against the standard's table and the registration's limits. It is our own side that would be at fault. */
export function checkSent(run: Run, link: Link, tried: TriedLaunch, as: 'instructor' | 'learner'): Found[] {
  const { sent, wireEntryId } = tried
  if (!sent) return []
  const { registration } = link
  const facts: SentFacts = {
    disclosure: registration.disclosure,
    as,
    secrets: registration.secretSealed ? [run.context.keys.unseal(registration.secretSealed, registration.id)] : [],
  }
  const problems = sent.claims ? checkSentClaims(sent.claims, facts) : checkSentParameters(sent.fields, facts)
  const count = sent.claims ? Object.keys(sent.claims).length : sent.fields.length
  if (problems.length === 0)
    return [found('sent', 'as_standard', { count, parts: sent.claims ? 'claims' : 'parameters' }, { wireEntryId })]
  return problems
    .slice(0, 5)
    .map(({ name, statement }) => found('sent', 'not_as_standard', { name, problem: statement }, { wireEntryId }))
}

/** What of a launch a tool's words can be set against. */
export function sentFacts(
  run: Run,
  link: Link,
  { sent, followed }: TriedLaunch,
  as: 'instructor' | 'learner',
): ObjectedTo {
  const { registration, resource } = link
  const { settings, clock } = run.context
  const claims = sent?.claims
  const roles: unknown = claims ? claims[`${CLAIM}roles`] : sent?.fields.find(([name]) => name === 'roles')?.[1]
  const theirs = Date.parse(followed.headers['date'] ?? '')
  return {
    version: registration.version,
    as,
    isTestLearner: as === 'learner' && !run.sounding.pilot,
    sentAt: clock.now(),
    clockAheadSeconds: Number.isNaN(theirs) ? undefined : Math.round((clock.now().getTime() - theirs) / 1000),
    values:
      registration.version === '1.3'
        ? {
            deployment: registration.deploymentId ?? '',
            audience: registration.clientId ?? '',
            issuer: settings.publicUrl,
            redirect: sent?.url ?? '',
            link: resource.resourceLinkId,
            roles: Array.isArray(roles) ? roles.map((role) => String(role).split('#').at(-1)).join(', ') : '',
          }
        : { key: registration.consumerKey ?? '', link: resource.resourceLinkId, roles: String(roles ?? '') },
  }
}
