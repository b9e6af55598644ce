import { signer, type Fields } from './verify-launch.js'

const CONTEXT = 'http://purl.imsglobal.org/ctx/lti/v1/ContentItem'

/** An item as Content-Item Message 1.0 has it. */
export type Item1 = Record<string, unknown>

/** The fields of a signed `ContentItemSelection` (Content-Item Message 1.0 section 3.2), to be posted to the platform's return address. */
export function selectionFields(
  credentials: { key: string; secret: string },
  request: { content_item_return_url: string; data?: string },
  items: readonly Item1[],
  more: Record<string, string> = {},
): Fields {
  const data: Fields = {
    lti_message_type: 'ContentItemSelection',
    lti_version: 'LTI-1p0',
    content_items: JSON.stringify({ '@context': CONTEXT, '@graph': items }),
    ...(request.data !== undefined && { data: request.data }),
    ...more,
  }
  const signed = signer(credentials.key, credentials.secret).authorize({
    url: request.content_item_return_url,
    method: 'POST',
    data,
  })
  return Object.fromEntries(Object.entries(signed).map(([name, value]) => [name, String(value)]))
}
