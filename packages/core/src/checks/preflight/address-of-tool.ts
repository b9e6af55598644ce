import { belongsTo } from '../../links/domain.js'
import { hostOf } from './addresses.js'
import type { Rule } from './rule.js'

export const addressOfTool: Rule = {
  code: 'address_of_tool',
  severity: 'warn',
  field: 'address',
  demands: 'Its own address belongs to its tool.',
  judge: ({ assignment: { ownUrl }, tool }) =>
    ownUrl !== null && tool.addresses.length > 0 && belongsTo(ownUrl, tool.addresses) === undefined
      ? {
          statement: `Its address (${hostOf(ownUrl)}) is not one of ${tool.name}, whose key it would be signed with.`,
          remedy: 'Check that the address was copied from this tool; choose the registration that it belongs to.',
        }
      : undefined,
}
