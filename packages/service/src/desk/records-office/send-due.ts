import { categoryJson, lineItemJson, resultJson, scoreScaleJson } from '@bathyscribe/core/oneroster'
import pMap from 'p-map'
import type { Context } from '../context.js'
import { lineItemOf, resultOf } from './hand-on.js'
import { createOfficeClient, type OfficeClient, type PutAnswer } from './office-client.js'
import { secretOf } from './settings.js'

const BATCH = 200
/** How many entries are on their way at once. */
const AT_ONCE = 4
/** For how long nobody else sends what was taken. */
const CLAIM_MS = 5 * 60_000
const FIRST_WAIT_MS = 2_000
const LONGEST_WAIT_MS = 15 * 60_000

/** When what failed so often is tried again: twice as late each time, up to a quarter of an hour. */
export function nextTry(tries: number, now: Date): Date {
  return new Date(now.getTime() + Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** Math.min(tries, 12)))
}

/**
 * Sends what is due to the records office: first the column with its category and scale, then its results, a few at once. What the office refuses stays refused until it
 * changes; what could not be delivered is tried again, ever more seldom. @returns how many were taken up
 */
export async function sendDue(context: Context): Promise<number> {
  const { records, clock } = context
  const office = await records.handedOn.office()
  if (!office || office.paused) return 0
  const now = clock.now()
  const due = await records.handedOn.claim(now, new Date(now.getTime() + CLAIM_MS), BATCH)
  if (due.length === 0) return 0
  const client = createOfficeClient(context, office, secretOf(context, office))
  const columns = new Map(
    (await records.handedOn.officeColumns([...new Set(due.map((one) => one.columnId))])).map((one) => [one.id, one]),
  )
  const ready = new Map<string, Promise<PutAnswer>>()
  const putColumn = (id: string) => {
    const there = ready.get(id) ?? announce(client, lineItemOf(columns.get(id)!))
    ready.set(id, there)
    return there
  }
  const answers = await pMap(
    due,
    async (one) => {
      const before = await putColumn(one.columnId)
      const said =
        before.state === 'accepted'
          ? await client.put('result', 'results', resultOf(one).id, resultJson(resultOf(one)))
          : before
      return {
        columnId: one.columnId,
        personId: one.personId,
        fingerprint: one.fingerprint,
        points: one.points,
        state: said.state,
        answer: said.state === 'accepted' ? '' : said.answer,
        nextAt: said.state === 'waiting' ? nextTry(one.tries, clock.now()) : null,
      }
    },
    { concurrency: AT_ONCE },
  )
  await records.handedOn.answered(answers, clock.now())
  const courses = await records.handedOn.coursesOf([...columns.keys()])
  for (const courseId of courses) context.changes.publish({ kind: 'office', courseId })
  return due.length
}

async function announce(client: OfficeClient, column: ReturnType<typeof lineItemOf>): Promise<PutAnswer> {
  const scale = await client.put(
    'scoreScale',
    'scoreScales',
    'points',
    scoreScaleJson(column.classId, column.changedAt),
  )
  if (scale.state !== 'accepted') return scale
  if (column.category) {
    const category = await client.put(
      'category',
      'categories',
      column.category.id,
      categoryJson(column.category, column.changedAt),
    )
    if (category.state !== 'accepted') return category
  }
  return client.put('lineItem', 'lineItems', column.id, lineItemJson(column))
}
