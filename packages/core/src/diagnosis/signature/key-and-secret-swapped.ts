import type { SignatureCause } from './facts.js'

export const keyAndSecretSwapped: SignatureCause = {
  code: 'key_and_secret_swapped',
  name: 'key and secret swapped',
  sentence: 'It was signed with the consumer key in place of the shared secret: the two are swapped at one end.',
  ours: 'Look whether key and secret stand in each other’s place here.',
  theirs: 'Look whether key and secret stand in each other’s place there.',
  variants: ({ held }) => [
    { secret: held.consumerKey, evidence: [['signed with', `the consumer key “${held.consumerKey}”`]] },
  ],
}
