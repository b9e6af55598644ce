import type { Disclosure } from '../identity/index.js'
import type { Place } from '../links/index.js'
import { isScope, scopeNamed, USUAL_SCOPES, type Scope } from '../lti13/names.js'

/** Something that was said and is no value to be copied: what the tool wants to see, where it wants to show, what stands in extensions for other platforms. */
export interface Beyond {
  /** Which part of the input it is from, for people. */
  from: string
  name: string
  value: string
  /** What it can be taken over as, by a person and never by itself; null where that cannot be told. */
  mightFill: MightFill | null
}
export type MightFill =
  | { field: 'disclosure'; value: Disclosure }
  | { field: 'placements'; value: Place[] }
  | { field: 'pickerUrl'; value: string }

export const MOST_BEYOND = 60

/** What a statement by name and value might fill. */
export function beyondOf(from: string, name: string, value: string): Beyond {
  const said = { from, name: name.slice(0, 120), value: value.slice(0, 2000) }
  return { ...said, mightFill: mightFill(said.name.toLowerCase(), said.value) }
}

function mightFill(name: string, value: string): MightFill | null {
  if (/privacy|identity|personal data|datenschutz|anonym|\bsees?\b/.test(name)) {
    const seen = disclosureIn(value)
    return seen && { field: 'disclosure', value: seen }
  }
  if (/^https?:\/\/\S+$/.test(value))
    return /pick|select|choose|chooser|content|deep|auswahl/.test(name) ? { field: 'pickerUrl', value } : null
  if (/plac(?:e|ement)s?\b|shows|appears|where|einsatzort|platzierung/.test(name)) {
    const places = placesIn(value)
    return places.length > 0 ? { field: 'placements', value: places } : null
  }
  return null
}

/** What of a person somebody says a tool needs to see. */
function disclosureIn(text: string): Disclosure | null {
  const said = text.toLowerCase()
  if (/anonym|opaque|pseudonym|nothing|no personal/.test(said)) return 'opaque'
  const [name, email] = [/\bnames?\b|vorname|nachname/.test(said), /e-?mail/.test(said)]
  if ((name && email) || /\bpublic\b|\beverything\b|\ball\b/.test(said)) return 'name_and_email'
  return name ? 'name' : email ? 'email' : null
}

const PLACE_WORDS: readonly (readonly [Place, RegExp])[] = [
  ['course_menu', /menu|navigation|menü/],
  ['unit_item', /unit|module|section|page item|lerneinheit|modul/],
  ['running_text', /editor|rich text|text|page/],
  ['assignment', /assignment|graded|activity|aufgabe/],
]
function placesIn(text: string): Place[] {
  const said = text.toLowerCase()
  return PLACE_WORDS.filter(([, word]) => word.test(said)).map(([place]) => place)
}

/** A scope that was asked for, and how that is known: by its own name, in words, or only because tools of this kind usually need it. */
export interface AskedScope {
  scope: Scope
  because: 'named' | 'in words' | 'usual'
}

const SCOPE_ADDRESS =
  /(?:https:\/\/purl\.imsglobal\.org\/spec\/[a-z-]{1,20}\/scope\/|urn:bathyscribe:scope:)[a-z.]{1,60}/g
const WORDS: readonly (readonly [RegExp, readonly Scope[]])[] = [
  [/assignment and grades? services?|\bags\b|grade ?(?:book|s)? (?:sync|return|services?)|notenrück/i, USUAL_SCOPES],
  [/names and roles?|\bnrps\b|\broster\b|membership service|teilnehmerliste/i, [scopeNamed('roster')!]],
  [/course groups/i, [scopeNamed('groups')!]],
]

/** The scopes that a text asks for; where it says nothing, those without which scores do not come back. */
export function scopesIn(text: string): AskedScope[] {
  const named = [...new Set(text.match(SCOPE_ADDRESS) ?? [])].map((one) => one.replace(/\.$/, '')).filter(isScope)
  if (named.length > 0) return named.map((scope) => ({ scope, because: 'named' }))
  const worded = WORDS.filter(([word]) => word.test(text)).flatMap(([, scopes]) => scopes)
  if (worded.length > 0) return [...new Set(worded)].map((scope) => ({ scope, because: 'in words' }))
  return USUAL_SCOPES.map((scope) => ({ scope, because: 'usual' }))
}

/** A text without the addresses that name scopes: they lead nowhere. */
export function withoutScopes(text: string): string {
  return text.replace(SCOPE_ADDRESS, '')
}
