/** Where the case of a learner in an assignment is. */
export function caseAddress(course: string, assignment: string, person: string): string {
  return `/courses/${course}/assignments/${assignment}/cases/${person}`
}
