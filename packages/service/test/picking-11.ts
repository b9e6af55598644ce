import { createServer, type Server } from 'node:http'
import { selectionFields } from '@bathyscribe/practice-tools'
import { KEY, SECRET, type Visitor } from './harness.js'

/** A site that offers a file, a picture, and something that is not there. */
export function offeringSite(): Server {
  return createServer((request, response) => {
    if (request.url === '/chart.txt')
      return response.writeHead(200, { 'content-type': 'text/html' }).end('Depths in metres')
    if (request.url === '/moved') return response.writeHead(302, { location: '/chart.txt' }).end()
    response.writeHead(404).end()
  })
}

/** The request as the tool's picker gets it. */
export async function askedOf(who: Visitor, id: string): Promise<Record<string, string>> {
  const page = await (await who.send(`/lti/picker/${id}/open`)).text()
  return Object.fromEntries(
    [...page.matchAll(/<input type="hidden" name="([^"]*)" value="([^"]*)"/g)].map(([, name, value]) => [
      name!,
      value!.replaceAll('&amp;', '&').replaceAll('&quot;', '"'),
    ]),
  )
}

/** What an answer has other than an honest one. */
export interface AnswerChange {
  secret?: string
  key?: string
  data?: string
  more?: Record<string, string>
  drop?: string
}

/**
 * Answers as a tool does that signs by a general library, from a browser in which nobody is signed in.
 * @param at the address that is answered to: `to` in place of the one that was asked from, `otherwise` where none was
 */
export async function answerTo(
  who: Visitor,
  id: string,
  items: readonly object[],
  change: AnswerChange,
  at: { to: string | undefined; otherwise: string },
) {
  const request = await askedOf(who, id)
  const to = at.to ?? request['content_item_return_url'] ?? at.otherwise
  const data = change.data ?? request['data'] ?? ''
  const fields = selectionFields(
    { key: change.key ?? KEY, secret: change.secret ?? SECRET },
    { content_item_return_url: to, data },
    items as Record<string, unknown>[],
    change.more,
  )
  if (change.drop) delete fields[change.drop]
  const response = await fetch(to, { method: 'POST', body: new URLSearchParams(fields) })
  return { status: response.status, page: await response.text(), fields }
}

export const LINK = {
  '@type': 'LtiLinkItem',
  mediaType: 'application/vnd.ims.lti.v1.ltilink',
  title: 'Bends',
  url: 'https://knots.example/launch',
  custom: { drill: 'bends' },
}
