import { checkAuthorization, type Hints } from '../lti13/index.js'
import { found, type Found } from './findings/catalogue.js'

/**
 * Judges what a tool's initiation address made of our login initiation: whether it sends the browser to our authorisation
 * address with the parameters the standard asks for, our hints unchanged (LTI 1.3 core section 4.1.2).
 * @param sent the authorisation request it would make the browser send; undefined when it sent the browser nowhere
 */
export function checkInitiation(
  sent: { url: string; parameters: Readonly<Record<string, string>> } | undefined,
  expected: { authorizationUrl: string; clientId: string; redirectUris: readonly string[]; hints: Hints },
): Found[] {
  if (!sent) return [found('initiation', 'not_sent_back', {})]
  const address = sent.url.split('?')[0]!
  if (address !== expected.authorizationUrl)
    return [found('initiation', 'sent_elsewhere', { url: address.slice(0, 200) })]
  const { parameters } = sent
  const given = (name: string, most: number) => (parameters[name] ?? '').slice(0, most)
  const faults: Found[] = []
  if (parameters['client_id'] !== expected.clientId)
    faults.push(found('initiation', 'other_client', { sent: given('client_id', 80), ours: expected.clientId }))
  if (!expected.redirectUris.includes(parameters['redirect_uri'] ?? ''))
    faults.push(found('initiation', 'redirect_not_registered', { sent: given('redirect_uri', 200) }))
  if (parameters['login_hint'] !== expected.hints.login || parameters['lti_message_hint'] !== expected.hints.message)
    faults.push(found('initiation', 'hints_changed', {}))
  if (!parameters['state']) faults.push(found('initiation', 'no_state', {}))
  const problem = checkAuthorization(parameters)
  if (problem && faults.length === 0) faults.push(found('initiation', 'not_as_standard', { detail: problem.detail }))
  return faults.length > 0 ? faults : [found('initiation', 'sent_back', {})]
}
