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
  /** Says nothing where it is not known when the token came. */
  needsClock?: true
}
const PARTS: readonly Part[] = [
  { name: 'form', cause: form },
  { name: 'algorithm', cause: algorithm },
  { name: 'issuer', cause: issuer },
  { name: 'audience', cause: audience },
  { name: 'key and signature', cause: key },
  { name: 'what was signed', cause: signedOtherwise },
  { name: 'unit of its times', cause: unit },
  { name: 'expiry', cause: expired, needsClock: true },
  { name: 'lifetime', cause: lifetime },
  { name: 'time of issue', cause: fromTheFuture, needsClock: true },
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
  const parts = PARTS.map((part) => ({ ...part, fault: part.cause(tried) }))
  const ruledOut = parts.filter(({ fault, needsClock }) => !fault && !(needsClock && facts.nowSeconds === null))
  return faultsIn(
    parts.flatMap(({ fault }) => fault ?? []),
    ruledOut.map(({ name }) => name),
    'Nothing is wrong with the token as far as it can be told here.',
  )
}
