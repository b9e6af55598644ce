import { readdirSync, readFileSync } from 'node:fs'

/** The kernel counts in hundredths of a second (proc(5); `getconf CLK_TCK`). */
const US_PER_TICK = 10_000
const [PARENT, USER, SYSTEM, USER_OF_ENDED, SYSTEM_OF_ENDED] = [1, 11, 12, 13, 14] as const

/** The fields of `/proc/PID/stat` behind the name, which may hold blanks itself; empty for a process that is gone. */
function fieldsOf(pid: number | string): number[] {
  let text
  try {
    text = readFileSync(`/proc/${pid}/stat`, 'utf8')
  } catch {
    return []
  }
  return text
    .slice(text.lastIndexOf(')') + 2)
    .split(' ')
    .map(Number)
}

/** Microseconds of processor that a process has used so far, all of its threads together. */
export function usedBy(pid: number): number {
  const fields = fieldsOf(pid)
  return ((fields[USER] ?? 0) + (fields[SYSTEM] ?? 0)) * US_PER_TICK
}

/** The same of a process with its children, those that have ended included: of PostgreSQL with all its connections. */
export function usedByFamily(pid: number): number {
  const own = fieldsOf(pid)
  const ended = ((own[USER_OF_ENDED] ?? 0) + (own[SYSTEM_OF_ENDED] ?? 0)) * US_PER_TICK
  const children = readdirSync('/proc').filter((name) => /^\d+$/.test(name) && fieldsOf(name)[PARENT] === pid)
  return usedBy(pid) + ended + children.reduce((sum, child) => sum + usedBy(Number(child)), 0)
}

/** What is measured of: a server, and the database that it works with. */
export interface Accounts {
  server: number
  database: number
}

/**
 * Microseconds of processor per request that some work takes of a server and of its database.
 * @param work says how many requests it was; `begins` is called where it has to get ready first, and what was used before does not count
 */
export async function perRequest(
  pids: Accounts,
  work: (begins: () => void) => Promise<number>,
): Promise<{ server: number; database: number; requests: number }> {
  const read = () => ({ server: usedBy(pids.server), database: usedByFamily(pids.database) })
  let before = read()
  const requests = await work(() => (before = read()))
  const after = read()
  const share = (name: keyof Accounts) => Math.round((after[name] - before[name]) / Math.max(1, requests))
  return { server: share('server'), database: share('database'), requests }
}

/** Hundredths of seconds of all processors since the machine started: altogether, and those that its host gave to others (proc(5): steal). */
export function machineTicks(): { all: number; stolen: number } {
  const [line = ''] = readFileSync('/proc/stat', 'utf8').split('\n')
  const [user = 0, nice = 0, system = 0, idle = 0, waiting = 0, hard = 0, soft = 0, stolen = 0] = line
    .split(/ +/)
    .slice(1)
    .map(Number)
  return { all: user + nice + system + idle + waiting + hard + soft + stolen, stolen }
}

/** Mebibytes of memory that a process has in use. */
export function residentMb(pid: number): number {
  const [, kib] = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8')) ?? []
  return Math.round(Number(kib) / 1024)
}
