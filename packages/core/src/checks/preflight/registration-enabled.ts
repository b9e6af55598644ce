import { defineRule } from './rule.js'

export const registrationEnabled = defineRule({
  code: 'registration_enabled',
  severity: 'fail',
  field: 'tool',
  demands: 'Its registration is enabled.',
  judge: ({ tool: { state } }) => (state === 'enabled' ? undefined : { state }),
  words: ({ state }) => ({
    statement: `Its tool’s registration is ${state}, so learners would be refused.`,
    remedy: 'Enable the registration first, or choose another tool.',
  }),
})
