import type { SignatureCause } from './facts.js'

/** One parameter was added behind the signature: leaving it out makes it match. */
export const changedAfterSigning: SignatureCause = {
  code: 'changed_after_signing',
  name: 'a parameter added after signing',
  sentence: 'A parameter was added after the message was signed.',
  ours: 'Look what stands between the two ends: a proxy, a script of the page, a browser’s extension.',
  theirs: 'Sign after the last parameter is set; a submit button must have no name.',
  variants: ({ request }) =>
    request.parameters
      .filter(([name, value]) => value !== '' && (!name.startsWith('oauth_') || name === 'oauth_callback'))
      .slice(0, 80)
      .map((left) => ({
        request: { ...request, parameters: request.parameters.filter((one) => one !== left) },
        evidence: [['not signed', `${left[0]}=${left[1]}`.slice(0, 200)]],
      })),
}
