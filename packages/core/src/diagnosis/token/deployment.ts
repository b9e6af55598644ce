import { CLAIM } from '../../lti13/names.js'
import { nearestIdentifier } from '../nearly.js'
import { Proof } from '../proof.js'
import { isOurs, shown, type TokenCause } from './facts.js'

/** The deployment has to be one of the tool’s (LTI 1.3 section 5.3.3). */
export const deployment: TokenCause = (facts) => {
  const { claims, kind, tools } = facts
  if (kind !== 'launch' && kind !== 'picked') return undefined
  const given = claims[`${CLAIM}deployment_id`]
  const clients = isOurs(facts) ? [claims['aud']].flat() : [claims['iss']]
  const tool = tools.find(({ clientId }) => clients.includes(clientId))
  if (!tool || (typeof given === 'string' && tool.deployments.includes(given))) return undefined
  const owner = tools.find(({ deployments }) => typeof given === 'string' && deployments.includes(given))
  const near = nearestIdentifier(shown(given), tool.deployments)
  return {
    code: 'deployment',
    sentence: owner
      ? `The deployment is one of ${owner.label}, not of ${tool.label}.`
      : given === undefined
        ? 'The token names no deployment.'
        : near
          ? `The deployment is nearly one of ${tool.label}: ${near.difference}.`
          : `The deployment is none of ${tool.label}.`,
    evidence: [
      ['deployment_id', shown(given)],
      [`of ${tool.label}`, tool.deployments.join(', ').slice(0, 300) || 'none'],
    ],
    ours: 'Compare the deployments on the registration’s page with what the tool’s end has entered.',
    theirs: 'Answer with the deployment that the launch named.',
    proof: Proof.byNoneOf([given], tool.deployments),
  }
}
