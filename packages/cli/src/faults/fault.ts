import type { Assignment, Tool } from '@bathyscribe/contract'

/** Values of a registration that a set-up breaks, and that whoever mends it puts right. */
export type ToolValues = Partial<
  Pick<Tool, 'launchUrl' | 'consumerKey' | 'redirectUris' | 'scopes' | 'keysetUrl'> & { sharedSecret: string }
>

/** Values of an assignment that a set-up breaks. */
export interface AssignmentValues {
  documentTarget?: 'frame' | 'window'
  customParameters?: Record<string, string>
  audience?: { groups: string[] } | null
}

/** An assignment as it is now, and its registration. */
export interface FaultNow {
  assignment: Assignment
  tool: Tool
}

/** One broken set-up: what a person reports, what was broken to cause it, and how its mending is recognised. */
export interface Fault {
  name: string
  title: string
  kind: 'drills' | 'bench'
  reportedBy: string
  symptom: string
  /** Where to look when one is stuck; one step at a time. */
  hints: readonly string[]
  breakTool?: (right: Tool & { sharedSecret: string }) => ToolValues
  /** States that are broken rather than values. */
  suspend?: true
  draft?: true
  breakAssignment?: AssignmentValues
  /** What the page of a learner shows when the right content opens. */
  shows?: string
  /** A sounding of it has to go as a pilot. */
  pilot?: true
  /** What has to be so beside a sounding that ran through. @returns what is still wrong, in words */
  stillWrong?: (now: FaultNow) => string | undefined
}
