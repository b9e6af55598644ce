/** How much of a person's identity a registration's tool may see. The opaque identifier is always sent. */
export const DISCLOSURES = ['opaque', 'name', 'email', 'name_and_email'] as const
export type Disclosure = (typeof DISCLOSURES)[number]

/** A person as the platform knows them. `subject` is opaque, stable, and the same to every version of the standard. */
export interface PersonFacts {
  subject: string
  givenName: string
  familyName: string
  fullName: string
  email: string | null
  sourcedId: string | null
}

/** What of a person leaves the house; absent fields are not sent at all. */
export interface DisclosedPerson {
  subject: string
  givenName?: string
  familyName?: string
  fullName?: string
  email?: string
  sourcedId?: string
}

/**
 * The part of a person that a tool may see. The sourced ID is a name in another system, so it goes with the name.
 * Empty values are left out rather than sent empty.
 */
export function disclose(person: PersonFacts, disclosure: Disclosure): DisclosedPerson {
  const seen: DisclosedPerson = { subject: person.subject }
  if (disclosure === 'name' || disclosure === 'name_and_email') {
    if (person.givenName) seen.givenName = person.givenName
    if (person.familyName) seen.familyName = person.familyName
    if (person.fullName) seen.fullName = person.fullName
    if (person.sourcedId) seen.sourcedId = person.sourcedId
  }
  if ((disclosure === 'email' || disclosure === 'name_and_email') && person.email) seen.email = person.email
  return seen
}
