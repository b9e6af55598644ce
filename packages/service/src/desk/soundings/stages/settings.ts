import { found, REMARK, type Found } from '@bathyscribe/core/checks'
import { checkEnd } from '../../tools/check-tool.js'
import { remarksOfSummary } from '../../assignments/more-acts.js'
import type { Run } from './run.js'

export async function soundSettings({ context, assignment }: Run): Promise<Found[]> {
  // Whether the tool was ever heard of is what the sounding itself finds out, whether learners are there is not the tool’s matter, and what was let stand is no finding.
  const remarks = (await remarksOfSummary(context, assignment)).filter(
    (remark) => !['key_used', 'learner_can_open'].includes(remark.rule) && remark.accepted === null,
  )
  const all = remarks.map(({ rule, verdict, facts }): Found => ({ check: rule, code: REMARK, verdict, facts }))
  if (assignment.state === 'draft') all.push(found('published', 'draft', {}))
  return all.length > 0 ? all : [found('preflight', 'clean', {})]
}

export async function soundReachability({ context, assignment, tool }: Run): Promise<Found[]> {
  return checkEnd(context, assignment.launchUrl ?? tool.launchUrl, assignment.documentTarget === 'frame')
}
