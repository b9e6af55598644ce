import { lti13Roles, type CourseRole, type DisclosedPerson, type SiteRole } from '../identity/index.js'
import type { Claims } from './jws.js'
import { messageClaims, type Message13Facts } from './launch.js'
import { CLAIM } from './names.js'

/** Everything that opens one submission in the tool. */
export interface ReviewFacts extends Message13Facts {
  /** The link that the submission was made through. */
  link: { id: string; title: string }
  /** Whose submission, already reduced to what the registration's tool may see. */
  about: { person: DisclosedPerson; courseRole: CourseRole | undefined; siteRole: SiteRole }
}

/** The claims of `LtiSubmissionReviewRequest` (Submission Review 1.0 section 3.3): who looks, and whose submission is looked at. */
export function reviewClaims(facts: ReviewFacts): Claims {
  const { person, courseRole, siteRole } = facts.about
  return {
    ...messageClaims('LtiSubmissionReviewRequest', facts),
    [`${CLAIM}resource_link`]: { id: facts.link.id, title: facts.link.title },
    [`${CLAIM}for_user`]: {
      user_id: person.subject,
      ...(person.fullName && { name: person.fullName }),
      ...(person.givenName && { given_name: person.givenName }),
      ...(person.familyName && { family_name: person.familyName }),
      ...(person.email && { email: person.email }),
      ...(person.sourcedId && { person_sourcedid: person.sourcedId }),
      roles: lti13Roles(courseRole, siteRole),
    },
  }
}
