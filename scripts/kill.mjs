// node scripts/kill.mjs [--times 10] [--scores 5000]: the service is killed in the middle of a burst, again and again. Every score that was answered 2xx is in the trail afterwards, none twice.
import { spawn } from 'node:child_process'
import { mkdirSync, openSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { prepare, RUN, Stop } from './lib/prepare.mjs'

const { values } = parseArgs({
  options: {
    times: { type: 'string', default: '10' },
    scores: { type: 'string', default: '5000' },
    json: { type: 'boolean' },
  },
})
const TIMES = Number(values.times)
const SCORES = Number(values.scores)
const CONNECTIONS = 24
const FOLDER = join(RUN, `kill-${process.pid}`)
const say = (line) => process.stderr.write(`${line}\n`)

try {
  prepare({ say })
  const { runKillTest } = await import('./lib/kill-test.mjs')
  mkdirSync(FOLDER, { recursive: true })
  const rounds = await runKillTest({
    folder: FOLDER,
    times: TIMES,
    scores: SCORES,
    connections: CONNECTIONS,
    spawn,
    openSync,
    say,
  })
  const wrong = rounds.filter((one) => one.lost > 0 || one.twice > 0)
  if (values.json) process.stdout.write(`${JSON.stringify(rounds)}\n`)
  const answered = rounds.reduce((sum, one) => sum + one.answered, 0)
  say(
    wrong.length === 0
      ? `● ${rounds.length} kills, ${answered} scores answered: each in the trail, none twice.`
      : `✕ ${wrong.length} of ${rounds.length} kills lost or doubled scores.`,
  )
  process.exitCode = wrong.length === 0 ? 0 : 1
} catch (error) {
  if (!(error instanceof Stop)) throw error
  say(error.message)
  process.exitCode = 1
} finally {
  rmSync(FOLDER, { recursive: true, force: true })
}
