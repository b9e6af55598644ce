import { z } from 'zod'
import { ERRORS, type ErrorCode } from './catalogue.js'

/** `application/problem+json` (RFC 9457) as this service answers it. */
export const Problem = z.object({
  type: z.string().describe('urn:bathyscribe:error: and the code'),
  title: z.string().describe('the sentence for a person'),
  status: z.int(),
  code: z.string(),
  hint: z.string().describe('what to do about it'),
  detail: z.string().optional().describe('which value, where, how much'),
  faults: z
    .array(z.object({ path: z.string(), message: z.string() }))
    .optional()
    .describe('every place of the request that is wrong'),
  requestId: z.string().optional(),
})
export type Problem = z.infer<typeof Problem>

/** The sentence of an error code, with the detail in brackets where there is one. */
export function sentenceOf({ code, detail }: { code: ErrorCode; detail?: string | undefined }): string {
  return detail ? `${ERRORS[code].sentence} (${detail})` : ERRORS[code].sentence
}

/** Any refusal that a caller is to be told of. `detail` is public; what is private stays in `cause` and in the log. */
export class Refusal extends Error {
  /** After which the same request may be good. */
  readonly retryAfterSeconds: number | undefined

  constructor(
    readonly code: ErrorCode,
    readonly detail?: string,
    readonly faults?: NonNullable<Problem['faults']>,
    options: ErrorOptions & { retryAfterSeconds?: number } = {},
  ) {
    super(`${code}${detail ? ` (${detail})` : ''}`, options)
    this.name = 'Refusal'
    this.retryAfterSeconds = options.retryAfterSeconds
  }

  /** What is wrong with something that was read, as a refusal. */
  static of({ code, detail }: { code: ErrorCode; detail: string }): Refusal {
    return new Refusal(code, detail)
  }

  get status(): number {
    return ERRORS[this.code].status
  }

  toProblem(requestId?: string): Problem {
    const { status, sentence, hint } = ERRORS[this.code]
    return {
      type: `urn:bathyscribe:error:${this.code}`,
      title: sentence,
      status,
      code: this.code,
      hint,
      ...(this.detail !== undefined && { detail: this.detail }),
      ...(this.faults !== undefined && { faults: this.faults }),
      ...(requestId !== undefined && { requestId }),
    }
  }
}
