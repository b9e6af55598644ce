import { Refusal } from '@bathyscribe/contract'
import { answeredWith, MAX_REDIRECTS, redirectOf, type Outgoing, type OutgoingAnswer } from './outgoing.js'

export interface Fetched extends OutgoingAnswer {
  /** Where it was found in the end. */
  url: URL
  redirects: number
}

/** Gets a document, following redirects; each step is guarded anew. @throws Refusal `outgoing.*` */
export async function fetchDocument(outgoing: Outgoing, address: string, accept: string): Promise<Fetched> {
  let url = new URL(address)
  for (let redirects = 0; ; redirects++) {
    if (redirects > MAX_REDIRECTS) throw new Refusal('outgoing.too_many_redirects', `${MAX_REDIRECTS} redirects`)
    const answer = await outgoing.send({ method: 'GET', url, headers: { accept: `${accept}, */*;q=0.5` } })
    const next = answer.status < 300 || answer.status > 399 ? undefined : redirectOf(answer.headers['location'], url)
    if (!next) {
      if (answer.status >= 400 || answer.status < 200) throw answeredWith(url, answer.status)
      return { ...answer, url, redirects }
    }
    url = next
  }
}
