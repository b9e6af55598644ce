import type { ContentItem } from '../../content/item.js'
import type { Disclosure } from '../../identity/index.js'
import type { Facts } from '../findings/definition.js'

/** What preflight looks at: one assignment as it would be published now, with what stands around it. Moments are ISO 8601. */
export interface PreflightFacts {
  now: Date
  /** The platform itself is reached by https: then a framed tool must be, too. */
  platformIsSecure: boolean
  assignment: {
    title: string
    points: string
    /** Whether its points enter the total. */
    counted: boolean
    hasCategory: boolean
    published: boolean
    opensAt: string | null
    dueAt: string | null
    closesAt: string | null
    documentTarget: 'frame' | 'window'
    /** Its own address; null uses the registration's. */
    ownUrl: string | null
    /** Where it leads after all. */
    launchUrl: string | null
    custom: Readonly<Record<string, string>>
    /** Plain text. */
    instructions: string
    /** What the tool's picker handed over, and which registration's picker it was. */
    content: ContentItem | null
    contentToolId: string | null
  }
  unit: { title: string; published: boolean } | null
  course: { startsAt: string | null; endsAt: string | null; learners: number }
  /** Null: everyone. `reached` counts the learners it is for. */
  audience: { groups: readonly { name: string; members: number }[]; people: number; reached: number } | null
  tool: ToolFacts
  /** Whether an instructor has opened it, as far as its tool asks for that. */
  entered: boolean
  /** How many other assignments of the course have the same title, whatever its capitals. */
  sameTitle: number
  /** Titles of other assignments of the course that lead to the same content. */
  sameContent: readonly string[]
  /** A registration almost of the same name that other assignments of the course use. */
  lookAlike: { name: string; used: number } | null
  /** Columns that the tool made by itself for the same work. */
  toolColumns: readonly string[]
}

/** What is known of the registration. */
export interface ToolFacts {
  id: string
  name: string
  state: 'draft' | 'waiting' | 'enabled' | 'suspended' | 'retired' | 'deleted'
  version: '1.1' | '1.3'
  returnsScores: boolean
  hasPicker: boolean
  /** Addresses that it is known by. */
  addresses: readonly string[]
  /** What its pages said of frames when they were last looked at. */
  framing: 'unknown' | 'allowed' | 'refused'
  /** Titles under which it opens, letter by letter; empty for tools that take any. */
  exactTitles: readonly string[]
  disclosure: Disclosure
  /** What of a person it wants to know. */
  asks: readonly ('name' | 'email')[]
  firstEntry: 'none' | 'course' | 'link'
  /** Whether its key or client was ever used. */
  used: boolean
  /** Its entry in the course's menu, as learners see it. */
  menuLabel: string | null
}

/** Which part of an assignment a remark is about. */
export type PreflightField =
  | 'title'
  | 'points'
  | 'category'
  | 'dates'
  | 'content'
  | 'address'
  | 'target'
  | 'tool'
  | 'unit'
  | 'audience'
  | 'instructions'

/** What one rule has to remark. Its words come last, from the facts. */
export interface PreflightRemark {
  rule: string
  field: PreflightField
  /** `fail` stops publishing; a `warn` can be accepted with a reason. */
  verdict: 'warn' | 'fail'
  facts: Facts
}

/** One rule. It finds nothing when there is nothing to say. */
export interface Rule<F extends Facts = Facts> {
  code: string
  severity: PreflightRemark['verdict']
  field: PreflightField
  /** What has to hold, for the documentation. */
  demands: string
  judge: (facts: PreflightFacts) => F | undefined
  words: (facts: F) => { statement: string; remedy: string }
}

/** A rule among others: what it finds is only ever told by its own words. */
export function defineRule<F extends Facts>(rule: Rule<F>): Rule {
  return rule as unknown as Rule
}

/** Several names as a sentence has them. */
export function quoted(names: readonly string[]): string {
  return names.map((one) => `“${one}”`).join(', ')
}

/** A moment as a person without a calendar reads it; the zone is the reader's own business, so it is named. */
export function day(iso: string): string {
  return `${iso.slice(0, 16).replace('T', ' ')} UTC`
}
