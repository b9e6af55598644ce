import type { Verdict } from '../checks/sounding.js'
import { checkAuthorization, type Hints } from './login.js'

export interface InitiationFinding {
  check: string
  verdict: Verdict
  statement: string
  remedy: string | null
}

/**
 * Judges what a tool's initiation address made of our login initiation: whether it sends the browser to our authorisation
 * address with the parameters the standard asks for, our hints unchanged (LTI 1.3 core section 4.1.2).
 * @param sent the authorisation request it would make the browser send; undefined when it sent the browser nowhere
 */
export function checkInitiation(
  sent: { url: string; parameters: Readonly<Record<string, string>> } | undefined,
  expected: { authorizationUrl: string; clientId: string; redirectUris: readonly string[]; hints: Hints },
): InitiationFinding[] {
  const found = (verdict: Verdict, statement: string, remedy: string | null = null): InitiationFinding => ({
    check: 'initiation',
    verdict,
    statement,
    remedy,
  })
  if (!sent)
    return [
      found(
        'fail',
        'The initiation address does not send the browser back to us.',
        'Check that the address is the tool’s login initiation address, and that its end knows our issuer and client ID.',
      ),
    ]
  if (sent.url.split('?')[0] !== expected.authorizationUrl)
    return [
      found(
        'fail',
        `The tool sends the browser to ${sent.url.split('?')[0]!.slice(0, 200)}, not to our authorisation address.`,
        'Enter the authorisation address of the exchange sheet at the tool’s end.',
      ),
    ]
  const { parameters } = sent
  const faults: InitiationFinding[] = []
  if (parameters['client_id'] !== expected.clientId)
    faults.push(
      found(
        'fail',
        `The tool sends the client ID “${(parameters['client_id'] ?? '').slice(0, 80)}”.`,
        `Enter ${expected.clientId} as client ID at the tool’s end.`,
      ),
    )
  if (!expected.redirectUris.includes(parameters['redirect_uri'] ?? ''))
    faults.push(
      found(
        'fail',
        `The tool asks for the answer at “${(parameters['redirect_uri'] ?? '').slice(0, 200)}”, which is not registered.`,
        'Add it to the redirect addresses of the registration, if the vendor names it.',
      ),
    )
  if (parameters['login_hint'] !== expected.hints.login || parameters['lti_message_hint'] !== expected.hints.message)
    faults.push(
      found(
        'fail',
        'The tool does not send our hints back unchanged.',
        'Tell the tool’s support: login_hint and lti_message_hint must come back letter by letter.',
      ),
    )
  if (!parameters['state'])
    faults.push(
      found(
        'warn',
        'The tool sends no state, so it cannot tell our answer from a forged one.',
        'Tell the tool’s support.',
      ),
    )
  const problem = checkAuthorization(parameters)
  if (problem && faults.length === 0)
    faults.push(
      found('fail', `The tool’s request is not as the standard has it: ${problem.detail}.`, 'Tell the tool’s support.'),
    )
  return faults.length > 0
    ? faults
    : [found('pass', 'The initiation address sends the browser back to us with the right parameters.')]
}
