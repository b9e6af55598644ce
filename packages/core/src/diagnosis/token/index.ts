import { faultsIn, type Diagnosis } from '../cause.js'
import { algorithm } from './algorithm.js'
import { audience } from './audience.js'
import { deployment } from './deployment.js'
import type { TokenFacts } from './facts.js'
import { issuer } from './issuer.js'
import { key } from './key.js'
import { required } from './required.js'
import { expired, fromTheFuture } from './times.js'

const CAUSES = [algorithm, issuer, audience, key, expired, fromTheFuture, deployment, required]
const NAMES = [
  'algorithm',
  'issuer',
  'audience',
  'key and signature',
  'expiry',
  'time of issue',
  'deployment',
  'required claims',
]

/** Holds every part of a token against what is known (LTI 1.3 section 5.1; Security Framework 1.0 section 5.1). Every fault found is one, whatever the others are. */
export function diagnoseToken(facts: TokenFacts): Diagnosis {
  const found = CAUSES.map((cause) => cause(facts))
  const causes = found.filter((cause) => cause !== undefined)
  const unjudged = facts.nowSeconds === null ? [expired, fromTheFuture] : []
  const ruledOut = NAMES.filter((_, i) => found[i] === undefined && !unjudged.includes(CAUSES[i]!))
  return faultsIn(causes, ruledOut, 'Nothing is wrong with the token as far as it can be told here.')
}
