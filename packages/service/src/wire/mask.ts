import type { Parameter } from '@bathyscribe/core/oauth1'

const SIGNATURE_NAMES = new Set(['oauth_signature'])
const SECRET_HEADERS = new Set(['authorization', 'cookie', 'set-cookie', 'proxy-authorization', 'x-csrf-token'])
const KEPT_CHARACTERS = 6
const MAX_TEXT = 20_000

/** A value that is recognised by its start but cannot be used: `Qw3x9A… (28 characters)`. */
export function mask(value: string): string {
  return `${value.slice(0, Math.min(KEPT_CHARACTERS, Math.floor(value.length / 4)))}… (${value.length} characters)`
}

/** Parameters as they may be kept: a signature is masked, for it opens a session at the tool while it is fresh. */
export function maskParameters(parameters: readonly Parameter[]): [string, string][] {
  return parameters.map(([name, value]) => [name, SIGNATURE_NAMES.has(name) ? mask(value) : clip(value)])
}

export function maskHeaders(headers: Readonly<Record<string, string | string[] | undefined>>): Record<string, string> {
  const kept: Record<string, string> = {}
  for (const [name, value] of Object.entries(headers)) {
    const text = Array.isArray(value) ? value.join(', ') : (value ?? '')
    if (name.toLowerCase() === 'authorization' && /^OAuth /i.test(text))
      kept[name] = text.replace(
        /(oauth_signature=")([^"]*)(")/,
        (_, start: string, value: string, end: string) => start + mask(value) + end,
      )
    else kept[name] = SECRET_HEADERS.has(name.toLowerCase()) ? mask(text) : clip(text)
  }
  return kept
}

export function clip(text: string): string {
  return text.length <= MAX_TEXT ? text : `${text.slice(0, MAX_TEXT)}… (${text.length} characters)`
}
