import { belongsTo } from '../../links/domain.js'
import { hostOf } from './addresses.js'
import { defineRule } from './rule.js'

export const addressOfTool = defineRule({
  code: 'address_of_tool',
  severity: 'warn',
  field: 'address',
  demands: 'Its own address belongs to its tool.',
  judge: ({ assignment: { ownUrl }, tool }) =>
    ownUrl !== null && tool.addresses.length > 0 && belongsTo(ownUrl, tool.addresses) === undefined
      ? { host: hostOf(ownUrl), tool: tool.name }
      : undefined,
  words: ({ host, tool }) => ({
    statement: `Its address (${host}) is not one of ${tool}, whose key it would be signed with.`,
    remedy: 'Check that the address was copied from this tool; choose the registration that it belongs to.',
  }),
})
