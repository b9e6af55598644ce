import { travelsOpenly } from '../../links/open-address.js'
import { defineRule } from './rule.js'

export const addressSecure = defineRule({
  code: 'address_secure',
  severity: 'warn',
  field: 'address',
  demands: 'What is launched travels by https.',
  judge: ({ assignment: { launchUrl } }) => (launchUrl !== null && travelsOpenly(launchUrl) ? {} : undefined),
  words: () => ({
    statement: 'The address begins with http: names and scores can be read on the way.',
    remedy: 'Use the tool’s https address if it has one.',
  }),
})
