import type { SignatureCause } from './facts.js'

export const previousSecret: SignatureCause = {
  code: 'previous_secret',
  name: 'an earlier secret',
  sentence: 'It was signed with a shared secret of this registration that is not the current one.',
  ours: 'Let the earlier secret be taken for some days more, until the tool’s end has changed.',
  theirs: 'Enter the current shared secret.',
  variants: ({ previous, held }) =>
    previous
      .filter((secret) => secret !== held.sharedSecret)
      .map((secret) => ({ secret, evidence: [['signed with', 'an earlier secret of the same registration']] })),
}
