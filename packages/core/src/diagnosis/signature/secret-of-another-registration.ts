import type { SignatureCause } from './facts.js'

export const secretOfAnotherRegistration: SignatureCause = {
  code: 'secret_of_another_registration',
  name: 'secret of another registration',
  sentence: 'It was signed with the shared secret of another registration.',
  ours: 'Compare which registration the two ends mean.',
  theirs: 'Enter the secret that belongs to this key.',
  variants: ({ held, others }) =>
    others
      .filter(({ sharedSecret }) => sharedSecret !== held.sharedSecret)
      .map(({ label, sharedSecret }) => ({ secret: sharedSecret, evidence: [['signed with the secret of', label]] })),
}
