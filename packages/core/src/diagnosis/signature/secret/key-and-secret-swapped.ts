import type { Mistake } from '../mistake.js'

export const keyAndSecretSwapped: Mistake = {
  code: 'key_and_secret_swapped',
  name: 'key and secret swapped',
  family: 'secret',
  sentence: 'It was signed with the consumer key in place of the shared secret: the two are swapped at one end.',
  ours: 'Check whether key and secret are swapped here.',
  theirs: 'Check whether key and secret are swapped there.',
  ways: ({ held }) => [
    {
      change: () => ({ secret: held.consumerKey }),
      evidence: [['signed with', `the consumer key “${held.consumerKey}”`]],
    },
  ],
}
