import { refusalFacts } from '@bathyscribe/contract'
import { found, type Found } from '@bathyscribe/core/checks'
import { checkEndKeyset } from '../../tools/check-tool-13.js'
import type { Run } from './run.js'

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
  if (!tool.secretSealed)
    return [found('secret', 'missing', { refusal: refusalFacts({ code: 'tool.secret_missing' }) })]
  try {
    context.keys.unseal(tool.secretSealed, tool.id)
  } catch {
    return [found('secret', 'sealed_otherwise', {})]
  }
  const others = await context.records.secrets.others(tool.id, context.clock.now())
  const ends = others.find((one) => one.role === 'previous')?.endsAt
  const days = ends ? Math.ceil((ends.getTime() - context.clock.now().getTime()) / DAY_MS) : 0
  return [
    found('secret', 'opens', {}),
    ...(days > 0 && days <= SOON_DAYS ? [found('previous secret', 'ends', { days })] : []),
  ]
}

async function keysOf13({ context, tool, sounding }: Run): Promise<Found[]> {
  return [await checkEndKeyset(context, tool, sounding.depth === 'deep' ? 0 : KEYSET_AGE_MS)]
}
