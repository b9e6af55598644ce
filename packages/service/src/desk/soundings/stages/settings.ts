import { checkEnd } from '../../tools/check-tool.js'
import { remarksOfAssignment } from '../../assignments/more-acts.js'
import type { Found, Run } from './run.js'

export async function soundSettings({ context, assignment }: Run): Promise<Found[]> {
  // Whether the tool was ever heard of is what the sounding itself finds out, whether learners are there is not the tool’s matter, and what was let stand is no finding.
  const remarks = (await remarksOfAssignment(context, assignment.id)).filter(
    (remark) => !['key_used', 'learner_can_open'].includes(remark.rule) && remark.accepted === null,
  )
  const found: Found[] = remarks.map((remark) => ({
    check: remark.rule,
    verdict: remark.verdict,
    statement: remark.statement,
    remedy: remark.remedy,
  }))
  if (assignment.state === 'draft')
    found.push({
      check: 'published',
      verdict: 'warn',
      statement: 'The assignment is a draft: learners cannot see it yet.',
      remedy: 'Publish it when it is ready.',
    })
  return found.length > 0
    ? found
    : [{ check: 'preflight', verdict: 'pass', statement: 'Preflight has nothing to remark.' }]
}

export async function soundReachability({ context, assignment, tool }: Run): Promise<Found[]> {
  return checkEnd(context, assignment.launchUrl ?? tool.launchUrl, assignment.documentTarget === 'frame')
}
