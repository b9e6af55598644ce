import type { Switches } from '../parts/switches.js'
import type { Tool13Fault } from './faults.js'
import { COLUMN_SCOPE, type GradeServices, type ScoreToSend } from './grade-services.js'

/** Sends a score in the way that the tool was told to send it. */
export async function sendAs(
  switches: Switches<Tool13Fault>,
  services: GradeServices,
  lineItem: string,
  honest: ScoreToSend,
): Promise<{ status: number; said: string }> {
  const score: ScoreToSend = {
    ...honest,
    timestamp: new Date().toISOString(),
    ...(switches.does('score_above_maximum') && { scoreGiven: (honest.scoreMaximum ?? 1) * 1.2 }),
    ...(switches.does('score_old_timestamp') && { timestamp: '1970-01-01T00:00:00.000Z' }),
    ...(switches.does('score_wrong_user') && { userId: 'nobody-we-know' }),
  }
  if (switches.does('score_expired_token')) return services.score(lineItem, score, { bearer: 'a.token.of-yesterday' })
  if (switches.does('score_other_scope')) return services.score(lineItem, score, { scope: COLUMN_SCOPE })
  if (switches.does('score_media_type')) return services.score(lineItem, score, { mediaType: 'application/json' })
  if (switches.does('score_other_column')) return services.score(`${lineItem}0`, score)
  if (switches.does('score_ten_at_once')) {
    const start = Date.now()
    const all = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        services.score(lineItem, { ...score, timestamp: new Date(start + i).toISOString() }),
      ),
    )
    return all.at(-1)!
  }
  const first = await services.score(lineItem, score)
  return switches.does('score_twice') ? services.score(lineItem, score) : first
}
