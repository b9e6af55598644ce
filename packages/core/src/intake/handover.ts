import type { ToolMetadata } from '../lti13/tool-metadata.js'
import type { AskedScope, Beyond } from './beyond.js'
import type { Field } from './fields.js'

/** One value that was recognised, as it is meant. */
export interface Recognised {
  field: Field
  value: string
  /** Which part of the input it is from, for people. */
  source: string
  /** What was left out of it. */
  removed: string[]
}

/** Key and secret that belong together, and what the input says they are for. */
export interface KeyPair {
  consumerKey: string
  sharedSecret: string
  purpose: string
  /** Null where the input does not say. */
  returnsScores: boolean | null
}

/** What was handed over, read. Nothing of it is registered. */
export interface Handover {
  kind: 'text' | 'xml' | 'json' | 'address' | 'nothing'
  version: '1.1' | '1.3' | null
  recognised: Recognised[]
  remarks: IntakeRemark[]
  /** What a registration still needs. */
  missing: Field[]
  pairs: KeyPair[]
  customParameters: Record<string, string>
  /** A name to begin with where none was given, out of the address; null where there is neither. */
  proposedName: string | null
  /** What it asks to be allowed to do; empty for LTI 1.1, where everything is by features. */
  scopes: AskedScope[]
  /** What is shown to the person beside the fields that it might fill. */
  beyond: Beyond[]
  /** Where the input points at something to be fetched and read in its turn. */
  follow: { address: string; as: 'configuration' | 'registration' | 'unknown' } | null
  /** The tool's own description of itself, when the input is one. */
  metadata: ToolMetadata | null
}

/** Something wrong (`fail`) or doubtful (`warn`) in what was handed over. */
export interface IntakeRemark {
  code:
    | 'hidden_characters'
    | 'blank_inside'
    | 'placeholder'
    | 'cut_short'
    | 'not_secure'
    | 'private_address'
    | 'address_unusable'
    | 'expired'
    | 'swapped'
    | 'key_is_secret'
    | 'too_short'
    | 'two_pairs'
    | 'unread_extensions'
    | 'configuration_unread'
    | 'usual_scopes'
    | 'personal_part'
    | 'unknown_scopes'
    | 'unknown_messages'
    | 'both_versions'
    | 'contradiction'
    | 'nothing_recognised'
    | 'unreadable'
  field: Field | null
  verdict: 'warn' | 'fail'
  statement: string
  remedy: string
}
