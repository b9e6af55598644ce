import type { SignatureFacts, Variant } from './facts.js'

/** The message signed for other addresses than the one it came to. */
export function atAddresses({ request }: SignatureFacts, urls: readonly string[]): Variant[] {
  return [...new Set(urls)]
    .filter((url) => url !== request.url)
    .map((url) => ({
      request: { ...request, url },
      evidence: [
        ['received at', shown(request.url)],
        ['signed for', shown(url)],
      ],
    }))
}

function shown(url: string): string {
  return url.slice(0, 300)
}
