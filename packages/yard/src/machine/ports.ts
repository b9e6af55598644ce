// Free ports on loopback, for whatever is started here.
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'

/** Ports below those that systems give to outgoing connections: one of those could take a port between our look and our use. */
const PORTS = { from: 11_000, to: 19_999 }
let next = PORTS.from + Math.floor(Math.random() * (PORTS.to - PORTS.from))

/** A port on loopback that nobody has, and that is given to nobody else for as long as this process lives. */
export async function freePort(): Promise<number> {
  for (let tries = 0; tries < PORTS.to - PORTS.from; tries++) {
    const port = next
    next = port === PORTS.to ? PORTS.from : port + 1
    if (claim(port) && !(await isTaken(port))) return port
  }
  throw new Error(`No port from ${PORTS.from} to ${PORTS.to} is free.`)
}

/** As many of our tools as there are stand in a row, and room for more; rows begin at full twenties, above the single ports. */
const ROW = 20
const ROWS = { from: 20_000, to: 29_980 }

/** The first of twenty ports in a row that nobody has, and that are given to nobody else for as long as this process lives. */
export async function freeRow(): Promise<number> {
  const all = Array.from({ length: ROW }, (_, i) => i)
  for (let tries = 0; tries < ROWS.to - ROWS.from; tries++) {
    const first = ROWS.from + ROW * Math.floor((Math.random() * (ROWS.to - ROWS.from)) / ROW)
    // The first one stands for its row.
    if (claim(first) && (await Promise.all(all.map((i) => isTaken(first + i)))).every((taken) => !taken)) return first
  }
  throw new Error(`No twenty ports in a row are free from ${ROWS.from} to ${ROWS.to}.`)
}

const CLAIMS = join(tmpdir(), `bathyscribe-ports-${userInfo().username}`)
const claims: string[] = []
process.on('exit', () => {
  for (const file of claims) rmSync(file, { force: true })
})

/** Between the look and the use, other programs of ours look, too: each notes what it chose. @returns whether it is ours now */
function claim(port: number): boolean {
  mkdirSync(CLAIMS, { recursive: true })
  const file = join(CLAIMS, String(port))
  try {
    writeFileSync(file, String(process.pid), { flag: 'wx' })
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
    if (!isLeft(file)) return false
    writeFileSync(file, String(process.pid))
  }
  claims.push(file)
  return true
}

/** Whether the program that noted a port has gone without taking its note along. */
function isLeft(file: string): boolean {
  try {
    process.kill(Number(readFileSync(file, 'utf8')) || process.pid, 0)
    return false
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ESRCH'
  }
}

export function isTaken(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer()
    server.once('error', () => resolve(true))
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(false)))
  })
}
