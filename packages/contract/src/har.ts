/** Of an entry of a HAR file (HTTP Archive 1.2) what was asked; what was answered is large, private, and says nothing of who signed. */
interface Entry {
  startedDateTime?: unknown
  request?: { method?: unknown; url?: unknown; headers?: unknown; postData?: unknown }
}

/** A HAR file with its requests alone, so that it can be sent; any other text as it is. */
export function requestsOnly(text: string): string {
  if (!text.trimStart().startsWith('{')) return text
  try {
    const { log } = JSON.parse(text) as { log?: { entries?: Entry[] } | null }
    if (!Array.isArray(log?.entries)) return text
    const entries = log.entries.map(({ startedDateTime, request }) => ({
      startedDateTime,
      request: { method: request?.method, url: request?.url, headers: authorization(request?.headers), postData: request?.postData },
    })) // oxfmt-ignore
    return JSON.stringify({ log: { entries } })
  } catch {
    return text
  }
}

/** Cookies are nobody's business here. */
function authorization(headers: unknown): unknown[] {
  return (Array.isArray(headers) ? (headers as { name?: unknown }[]) : []).filter(
    ({ name }) => String(name).toLowerCase() === 'authorization',
  )
}
