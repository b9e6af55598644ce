import type { Parameter } from '../oauth1/index.js'

/**
 * The `custom_*` parameters of a launch (LTI 1.1.1 section 3, custom parameters): names lower-cased, every character
 * outside `[a-z0-9]` becomes `_`. Where that changed the name, the unchanged form is sent as well.
 */
export function customParameters(custom: Readonly<Record<string, string>>): Parameter[] {
  const sent = new Map<string, string>()
  for (const [name, value] of Object.entries(custom)) {
    const mapped = name.toLowerCase().replace(/[^a-z0-9]/g, '_')
    sent.set(`custom_${mapped}`, value)
    if (mapped !== name) sent.set(`custom_${name}`, value)
  }
  return [...sent]
}
