import { randomBytes } from 'node:crypto'

const KEPT = 20_000

/** What launches opened. Kept in the page, not in a cookie: a framed tool on another site gets none back. */
export class Sessions<S> {
  private readonly all = new Map<string, S>()

  open(session: S): string {
    const id = randomBytes(24).toString('base64url')
    this.all.set(id, session)
    if (this.all.size > KEPT) this.all.delete(this.all.keys().next().value!)
    return id
  }

  find(id: string | undefined): S | undefined {
    return this.all.get(id ?? '')
  }
}
