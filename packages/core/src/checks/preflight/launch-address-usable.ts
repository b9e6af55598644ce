import { checkLaunchAddress } from '../../links/launch-address.js'
import { defineRule } from './rule.js'

export const launchAddressUsable = defineRule({
  code: 'launch_address_usable',
  severity: 'fail',
  field: 'address',
  demands: 'It has an address that can be launched.',
  judge: ({ assignment: { launchUrl } }) =>
    launchUrl !== null && checkLaunchAddress(launchUrl) === undefined ? undefined : { address: launchUrl },
  words: ({ address }) => ({
    statement: address === null ? 'There is no launch address.' : `“${address}” cannot be launched.`,
    remedy: 'Give the address of the content, or leave it empty to use the registration’s own.',
  }),
})
