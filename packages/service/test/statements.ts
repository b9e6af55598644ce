import { AsyncLocalStorage } from 'node:async_hooks'
import pg from 'pg'

const ours = new AsyncLocalStorage<string[]>()
const send = pg.Client.prototype.query as (...args: unknown[]) => unknown
pg.Client.prototype.query = function (this: pg.Client, ...args: unknown[]) {
  const [question] = args as [string | { text?: string }]
  const sql = typeof question === 'string' ? question : (question.text ?? '')
  // Opening and closing of a transaction is no question.
  if (!/^\s*(start|begin|commit|rollback|savepoint|release)\b/i.test(sql)) ours.getStore()?.push(sql)
  return Reflect.apply(send, this, args)
} as typeof pg.Client.prototype.query

/** The statements that reach PostgreSQL on behalf of some work, whoever else asks it in the meantime. */
export async function statementsOf(work: () => Promise<unknown>): Promise<string[]> {
  const sent: string[] = []
  await ours.run(sent, work)
  return sent
}
