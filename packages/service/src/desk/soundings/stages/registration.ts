import { ERRORS } from '@bathyscribe/contract'
import { checkEndKeyset } from '../../tools/check-tool-13.js'
import { passed, type Found, type Run } from './run.js'

/** Keys of ours that end within so many days are worth a word. */
const SOON_DAYS = 14
const DAY_MS = 24 * 3600_000
/** Many links of one tool sounded one after the other read its keyset once. */
const KEYSET_AGE_MS = 15_000

/** Whether the registration's keys can be used, on our side and on the tool's, and will be for a while. */
export async function soundRegistration(run: Run): Promise<Found[]> {
  return run.tool.version === '1.3' ? keysOf13(run) : secretOf11(run)
}

async function secretOf11({ context, tool }: Run): Promise<Found[]> {
  if (!tool.secretSealed) {
    const { sentence, hint } = ERRORS['tool.secret_missing']
    return [{ check: 'secret', verdict: 'fail', statement: sentence, cause: sentence, remedy: hint }]
  }
  try {
    context.keys.unseal(tool.secretSealed, tool.id)
  } catch {
    return [
      {
        check: 'secret',
        verdict: 'fail',
        statement: 'The shared secret cannot be opened with the keys of this service.',
        cause: 'The key file is another than the one the secret was sealed with.',
        remedy: 'Bring the right key file back, or enter the shared secret again.',
      },
    ]
  }
  const others = await context.records.secrets.others(tool.id, context.clock.now())
  const ends = others.find((one) => one.role === 'previous')?.endsAt
  const days = ends ? Math.ceil((ends.getTime() - context.clock.now().getTime()) / DAY_MS) : null
  return [
    passed('secret', 'The shared secret is here and can be opened.'),
    ...(days !== null && days > 0 && days <= SOON_DAYS
      ? [
          {
            check: 'previous secret',
            verdict: 'warn' as const,
            statement: `The previous shared secret is taken for ${days} more ${days === 1 ? 'day' : 'days'}; after that a tool that still signs by it is refused.`,
            cause: 'The previous shared secret is about to end.',
            remedy: 'See that the tool’s end holds the new one.',
          },
        ]
      : []),
  ]
}

async function keysOf13({ context, tool, sounding }: Run): Promise<Found[]> {
  const maxAgeMs = sounding.depth === 'deep' ? 0 : KEYSET_AGE_MS
  const { verdict, statement, remedy } = await checkEndKeyset(context, tool, maxAgeMs)
  return [{ check: 'keyset', verdict, statement, remedy, ...(verdict === 'fail' && { cause: statement }) }]
}
