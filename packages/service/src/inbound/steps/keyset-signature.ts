import { Refusal } from '@bathyscribe/contract'
import { verifyJws, type Jws } from '@bathyscribe/core/lti13'
import type { Context } from '../../desk/context.js'
import { verifyRs256 } from '../../keys/verify-rsa.js'

/** Verifies a token by the tool's own keys (Security Framework 1.0 section 5.1.3), which are read anew for a key that is not known yet. */
export async function verifiedByKeyset(
  context: Context,
  tool: Parameters<Context['toolKeysets']['keysOf']>[0],
  jws: Jws,
): Promise<Refusal | undefined> {
  const problem = verifyJws(jws, await context.toolKeysets.keysOf(tool, jws.keyId), verifyRs256)
  return problem && Refusal.of(problem)
}
