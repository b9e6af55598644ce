import type { SignatureMethod, SignedRequest } from '../../oauth1/index.js'

/** Key and secret of one registration. */
export interface HeldSecret {
  /** By which people know it, such as the tool’s name. */
  label: string
  consumerKey: string
  sharedSecret: string
}

/** A signed message that did not verify, and what is known around it. */
export interface SignatureFacts {
  /** As it was received: the address by which this service is known, all parameters but those of its query. */
  request: SignedRequest
  signature: string
  signatureMethod: SignatureMethod
  /** The registration whose key it names. */
  held: HeldSecret
  /** Secrets of that registration that are not taken any more, or not yet. */
  previous: readonly string[]
  others: readonly HeldSecret[]
  /** Other names and ports by which this service is reached, such as `127.0.0.1:8080`. */
  hosts: readonly string[]
}

/** The message as somebody would have signed it who made one mistake. */
export interface Variant {
  request?: SignedRequest
  signatureMethod?: SignatureMethod
  /** Shared secret, before it is encoded. */
  secret?: string
  /** The whole key of the HMAC, where it is not made of a secret in the usual way. */
  macKey?: string
  /** The base string itself, where it is not made of the request in the usual way. */
  baseString?: string
  /** The end that is at fault, where that can be told. */
  at?: 'ours' | 'theirs'
  /** What shows it, when this variant turns out to be what was signed. */
  evidence: [name: string, value: string][]
}

/** A mistake of which it can be computed how the message would be signed by it. */
export interface SignatureCause {
  code: string
  /** In words, for the list of what was ruled out. */
  name: string
  sentence: string
  ours: string | null
  theirs: string | null
  variants(facts: SignatureFacts): Variant[]
}
