import { AsyncLocalStorage } from 'node:async_hooks'
import pg from 'pg'

/** A statement as it reached PostgreSQL. */
export interface Question {
  sql: string
  values: unknown[]
}

const ours = new AsyncLocalStorage<Question[]>()
const send = pg.Client.prototype.query as (...args: unknown[]) => unknown
pg.Client.prototype.query = function (this: pg.Client, ...args: unknown[]) {
  const [question, given] = args as [string | { text?: string; values?: unknown[] }, unknown]
  // The mark of what is planned once is none of the statement.
  const sql = (typeof question === 'string' ? question : (question.text ?? '')).replace(/^\/\*[^*]*\*\/\s*/, '')
  const values = typeof question === 'string' ? given : (question.values ?? given)
  // Opening and closing of a transaction is no question.
  if (!/^\s*(start|begin|commit|rollback|savepoint|release)\b/i.test(sql))
    ours.getStore()?.push({ sql, values: Array.isArray(values) ? (values as unknown[]) : [] })
  return Reflect.apply(send, this, args)
} as typeof pg.Client.prototype.query

/** The statements that reach PostgreSQL on behalf of some work, with their values, whoever else asks it in the meantime. */
export async function questionsOf(work: () => Promise<unknown>): Promise<Question[]> {
  const sent: Question[] = []
  await ours.run(sent, work)
  return sent
}

/** The same without their values. */
export async function statementsOf(work: () => Promise<unknown>): Promise<string[]> {
  return (await questionsOf(work)).map(({ sql }) => sql)
}
