import { faultsIn, type Diagnosis } from '../cause.js'
import { algorithm } from './algorithm.js'
import { audience } from './audience.js'
import { deployment } from './deployment.js'
import type { TokenCause, TokenFacts, VerifyRsa } from './facts.js'
import { form, signedOtherwise } from './form.js'
import { issuer } from './issuer.js'
import { key } from './key.js'
import { messageType, required, version } from './required.js'
import { signerOf } from './signer.js'
import { expired, fromTheFuture, lifetime, unit } from './times.js'

interface Part {
  /** In words, for what was ruled out. */
  name: string
  cause: TokenCause
  /** Says nothing where it is not known when the token came, or where its claims were pasted without it. */
  needs?: 'clock' | 'token'
}
const PARTS: readonly Part[] = [
  { name: 'form', cause: form, needs: 'token' },
  { name: 'algorithm', cause: algorithm, needs: 'token' },
  { name: 'issuer', cause: issuer },
  { name: 'audience', cause: audience },
  { name: 'key and signature', cause: key, needs: 'token' },
  { name: 'what was signed', cause: signedOtherwise, needs: 'token' },
  { name: 'unit of its times', cause: unit },
  { name: 'expiry', cause: expired, needs: 'clock' },
  { name: 'lifetime', cause: lifetime },
  { name: 'time of issue', cause: fromTheFuture, needs: 'clock' },
  { name: 'deployment', cause: deployment },
  { name: 'version', cause: version },
  { name: 'message type', cause: messageType },
  { name: 'required claims', cause: required },
]

/**
 * Holds every part of a token against what is known (LTI 1.3 section 5.1; Security Framework 1.0 section 5.1). Every fault found is one, whatever the others are.
 * @param verify of the runtime: RSA by any of its algorithms
 */
export function diagnoseToken(facts: TokenFacts, verify: VerifyRsa): Diagnosis {
  const tried = { ...facts, signed: signerOf(facts, verify) }
  const lacks = { clock: facts.nowSeconds === null, token: facts.token === '' }
  const parts = PARTS.filter(({ needs }) => needs !== 'token' || !lacks.token).map((part) => ({ ...part, fault: part.cause(tried) })) // oxfmt-ignore
  const ruledOut = parts.filter(({ fault, needs }) => !fault && !(needs && lacks[needs]))
  return faultsIn(
    parts.flatMap(({ fault }) => fault ?? []),
    ruledOut.map(({ name }) => name),
    'Nothing is wrong with the token as far as it can be told here.',
  )
}
