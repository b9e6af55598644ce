import { remarkInWords } from '@bathyscribe/contract'
import type { Context } from '../context.js'
import { remarksNow } from './more-acts.js'

/**
 * Warnings that were accepted by their words, from before facts were kept: where the rule says today what it said then, what it finds today is accepted.
 * What says something else counted no more anyway, and goes. Done once, when the records are brought up to date; doing it again finds nothing.
 * @returns how many are still accepted
 */
export async function carryAcceptances(context: Pick<Context, 'settings' | 'clock' | 'records'>): Promise<number> {
  return context.records.transaction(async (records) => {
    const waiting = await records.preflight.acceptancesInWords()
    let carried = 0
    for (const assignmentId of new Set(waiting.map((one) => one.assignmentId))) {
      const remarks = (await remarksNow(context, records, assignmentId)).map(remarkInWords)
      for (const one of waiting.filter((each) => each.assignmentId === assignmentId)) {
        const same = remarks.find(({ rule, statement }) => rule === one.rule && statement === one.statement)
        if (!same) continue
        await records.preflight.giveFacts(assignmentId, one.rule, same.facts)
        carried++
      }
    }
    await records.preflight.dropAcceptancesInWords()
    return carried
  })
}
