import { WATCHED_WAIT_MINUTES } from '@bathyscribe/contract'
import { call } from '../state/api'

/** Begins a sounding as it usually goes: all the way, by the service itself, as the test learner. @returns its identifier */
export async function beginSounding(assignment: string): Promise<string> {
  const body = { depth: 'deep', follower: 'http', waitMinutes: WATCHED_WAIT_MINUTES } as const
  return (await call('runSounding', { params: { assignment }, body })).id
}
