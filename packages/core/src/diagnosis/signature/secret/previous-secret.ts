import type { Mistake } from '../mistake.js'

export const previousSecret: Mistake = {
  code: 'previous_secret',
  name: 'an earlier secret',
  family: 'secret',
  sentence: 'It was signed with a shared secret of this registration that is not the current one.',
  ours: 'Let the earlier secret be taken for some days more, until the tool’s end has changed.',
  theirs: 'Enter the current shared secret.',
  ways: ({ previous, held }) =>
    previous
      .filter((secret) => secret !== held.sharedSecret)
      .map((secret) => ({
        change: () => ({ secret }),
        evidence: [['signed with', 'an earlier secret of the same registration']],
      })),
}
