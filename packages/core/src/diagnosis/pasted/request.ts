import { parseAuthorizationHeader, type Parameter } from '../../oauth1/index.js'

/** A request as a program or a browser tells it. */
export interface Request {
  method: string
  url: string
  /** Of its body, as a form; and of an `Authorization` header of OAuth. */
  parameters: Parameter[]
  /** A token in its `Authorization` header. */
  bearer: string | null
}

/** What headers say of who signed a request. */
export function ofHeaders(headers: readonly Parameter[]): Pick<Request, 'parameters' | 'bearer'> {
  const value = headers.find(([name]) => name.toLowerCase() === 'authorization')?.[1] ?? ''
  const bearer = /^bearer\s+(\S+)/i.exec(value)?.[1] ?? null
  return { parameters: parseAuthorizationHeader(value) ?? [], bearer }
}
