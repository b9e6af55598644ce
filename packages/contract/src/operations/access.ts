import type { TokenScope } from '../resources/people.js'

/**
 * Who may make a call.
 * `anyone`: no sign-in. `person`: signed in; sees own things or what the own roles show. `administrator`: site role.
 * `member`, `teacher`, `instructor`: an active role in the course that `:course` or `:assignment` names; administrators too.
 * `registrar`: an administrator, or an instructor for a tool of the own course.
 */
export type Who = 'anyone' | 'person' | 'administrator' | 'member' | 'teacher' | 'instructor' | 'registrar'

export interface Access {
  who: Who
  /** The scope an API token needs for it; null where tokens are not taken at all. */
  scope: TokenScope | null
  /** Whether a deleted assignment is found by it, too; where the call is about a course, a deleted course by administrators. */
  deletedToo?: boolean
  /** Whether a column that a tool made is found by it, too. */
  columnToo?: boolean
  /**
   * Whether a session makes it only while its password is fresh (`confirmMinutes` of the settings): what hands out
   * secrets, ways in or rights is not for whoever finds a browser open.
   */
  freshOnly?: boolean
}

export const anyone: Access = { who: 'anyone', scope: 'read' }
export const person: Access = { who: 'person', scope: 'read' }
/** Only by a person who is signed in with a password, never by a token. */
export const personHere: Access = { who: 'person', scope: null }
/** The same, with the password given lately. */
export const personFresh: Access = { ...personHere, freshOnly: true }
export const administrator: Access = { who: 'administrator', scope: 'administer' }
export const administratorFresh: Access = { ...administrator, freshOnly: true }
export const member: Access = { who: 'member', scope: 'read' }
export const teacher: Access = { who: 'teacher', scope: 'read' }
export const teaching: Access = { who: 'teacher', scope: 'teach' }
export const instructing: Access = { who: 'instructor', scope: 'teach' }
/** Says something of what the own courses show. */
export const teachingSomewhere: Access = { who: 'person', scope: 'teach' }
export const registrar: Access = { who: 'registrar', scope: 'teach' }
