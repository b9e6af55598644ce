import type { Mistake } from '../mistake.js'
import { addressed } from './ways.js'

export const otherScheme: Mistake = {
  code: 'other_scheme',
  name: 'http in place of https',
  family: 'scheme',
  sentence: 'The signature was made for the same address under the other of http and https.',
  ours: 'Look whether `publicUrl` names the scheme by which the outside world reaches this service.',
  theirs: 'Sign the address as it was given; a reverse proxy must pass the scheme on to the code that signs.',
  ways: (_, right) => addressed(right, 'scheme', [(scheme) => (scheme === 'https' ? 'http' : 'https')]),
}
