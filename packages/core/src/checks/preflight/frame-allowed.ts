import { defineRule } from './rule.js'

export const frameAllowed = defineRule({
  code: 'frame_allowed',
  severity: 'warn',
  field: 'target',
  demands: 'A frame is chosen only for tools that may be framed.',
  judge: ({ assignment: { documentTarget }, tool }) =>
    documentTarget === 'frame' && tool.framing === 'refused' ? { tool: tool.name } : undefined,
  words: ({ tool }) => ({
    statement: `${tool} refuses to be shown in a frame: learners would see an empty one.`,
    remedy: 'Open it in a window, or have the tool allow our address.',
  }),
})
