import type { Assignment, Client, SoundingDetail } from '@bathyscribe/contract'
import { follow } from '../commands/sounding.js'
import type { Fault } from './fault.js'

/** How far a set-up is fixed, and what shows it. */
export interface Looked {
  fixed: boolean
  statement: string
  sounding: string | null
}

const LOOKED_BACK = 20

/** Whether a set-up is fixed: by the last sounding since it was last changed, and by what its fault asks besides. */
export async function look(client: Client, fault: Fault, assignment: Assignment): Promise<Looked> {
  const tool = await client.call('showTool', { params: { tool: assignment.tool.id } })
  const changed = Math.max(Date.parse(assignment.updatedAt), Date.parse(tool.updatedAt))
  const { items } = await client.call('listSoundings', { query: { assignment: assignment.id, limit: LOOKED_BACK } })
  const last = items.find(
    (one) => one.state === 'done' && Date.parse(one.startedAt) >= changed && (!fault.pilot || one.pilot !== null),
  )
  const sounding = last ? await client.call('showSounding', { params: { id: last.id } }) : null
  const wrong = fault.stillWrong?.({ assignment, tool })
  const answer = (fixed: boolean, statement: string): Looked => ({ fixed, statement, sounding: last?.id ?? null })
  if (wrong !== undefined) return answer(false, wrong)
  if (!sounding)
    return answer(
      false,
      fault.pilot ? 'No pilot has shown yet that learners get in.' : 'Not sounded since it was last changed.',
    )
  return ranThrough(sounding)
    ? answer(true, 'Fixed: a sounding ran all the way to the gradebook.')
    : answer(false, whyNot(sounding))
}

/** Looks after a sounding of its own; one that needs a pilot is left to whoever may ask a learner. */
export async function lookAgain(client: Client, fault: Fault, assignment: Assignment): Promise<Looked> {
  if (!fault.pilot && (fault.stillWrong === undefined || assignment.state === 'published'))
    await soundPlainly(client, assignment)
  return look(client, fault, assignment)
}

async function soundPlainly(client: Client, { id }: Assignment): Promise<SoundingDetail> {
  const started = await client.call('runSounding', { params: { assignment: id }, body: { depth: 'plain' } })
  return follow(client, started, false)
}

function whyNot({ verdict, cause, findings }: SoundingDetail): string {
  if (verdict === 'fail' && cause !== null) return cause
  const stopped = findings.find((one) => ['score', 'gradebook'].includes(one.stage) && one.verdict !== 'pass')
  return stopped?.statement ?? 'The last sounding did not come as far as the gradebook.'
}

function ranThrough({ verdict, stages }: SoundingDetail): boolean {
  return verdict !== 'fail' && stages.some((one) => one.stage === 'gradebook' && one.verdict === 'pass')
}
