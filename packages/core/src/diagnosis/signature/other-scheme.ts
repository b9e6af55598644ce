import { atAddresses } from './address.js'
import type { SignatureCause } from './facts.js'

export const otherScheme: SignatureCause = {
  code: 'other_scheme',
  name: 'http in place of https',
  sentence: 'The signature was made for the same address under the other of http and https.',
  ours: 'Look whether `publicUrl` names the scheme by which the outside world reaches this service.',
  theirs: 'Sign the address as it was given; a reverse proxy must pass the scheme on to the code that signs.',
  variants: (facts) =>
    atAddresses(facts, [
      /^https:/i.test(facts.request.url)
        ? facts.request.url.replace(/^https:/i, 'http:')
        : facts.request.url.replace(/^http:/i, 'https:'),
    ]),
}
