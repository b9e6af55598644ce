import type { Mistake } from '../mistake.js'

export const secretOfAnotherRegistration: Mistake = {
  code: 'secret_of_another_registration',
  name: 'secret of another registration',
  family: 'secret',
  sentence: 'It was signed with the shared secret of another registration.',
  ours: 'Compare which registration the two ends mean.',
  theirs: 'Enter the secret that belongs to this key.',
  ways: ({ held, others }) =>
    others
      .filter(({ sharedSecret }) => sharedSecret !== held.sharedSecret)
      .map(({ label, sharedSecret }) => ({
        change: () => ({ secret: sharedSecret }),
        evidence: [['signed with the secret of', label]],
      })),
}
