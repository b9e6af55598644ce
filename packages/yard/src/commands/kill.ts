import { mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { runKillTest } from '../load/kill-test.js'
import { RUN, say, sayBeside } from '../machine/place.js'

const CONNECTIONS = 24

/** The service is killed in the middle of a burst, again and again. Every score that was answered 2xx is in the trail afterwards, none twice. */
export async function main(args: string[]): Promise<number> {
  const { values } = parseArgs({
    args,
    options: {
      times: { type: 'string', default: '10' },
      scores: { type: 'string', default: '5000' },
      json: { type: 'boolean' },
    },
  })
  const folder = join(RUN, `kill-${process.pid}`)
  try {
    mkdirSync(folder, { recursive: true })
    const rounds = await runKillTest({
      folder,
      times: Number(values.times),
      scores: Number(values.scores),
      connections: CONNECTIONS,
      say: sayBeside,
    })
    const wrong = rounds.filter((one) => one.lost > 0 || one.twice > 0)
    if (values.json) say(JSON.stringify(rounds))
    const answered = rounds.reduce((sum, one) => sum + one.answered, 0)
    sayBeside(
      wrong.length === 0
        ? `● ${rounds.length} kills, ${answered} scores answered: each in the trail, none twice.`
        : `✕ ${wrong.length} of ${rounds.length} kills lost or doubled scores.`,
    )
    return wrong.length === 0 ? 0 : 1
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
