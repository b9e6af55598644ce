import type { SignatureMethod, SignedRequest } from '../../oauth1/index.js'

/** Key and secret of one registration. */
export interface HeldSecret {
  /** By which people know it, such as the tool’s name. */
  label: string
  consumerKey: string
  sharedSecret: string
}

/** A signed message, and what is known around it. */
export interface SignedFacts {
  /** As it was received: the address by which this service is known, all parameters but those of its query. */
  request: SignedRequest
  /** The registration whose key it names. */
  held: HeldSecret
  /** Secrets of that registration that are not taken any more, or not yet. */
  previous: readonly string[]
  others: readonly HeldSecret[]
  /** Other names and ports by which this service is reached, such as `127.0.0.1:8080`. */
  hosts: readonly string[]
}

/** One that did not verify. */
export interface SignatureFacts extends SignedFacts {
  signature: string
  signatureMethod: SignatureMethod
}

/** One whose base string the other end shows. */
export interface BaseStringFacts extends SignedFacts {
  theirs: string
}
