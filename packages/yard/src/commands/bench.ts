import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { BENCHES } from '../benches/all.js'
import type { Result } from '../benches/bench.js'
import { withSetting } from '../benches/scene.js'
import { RUN, say, sayBeside, Stop } from '../machine/place.js'

/** What a request costs against the least that it must, and against a bare baseline, measured in the same run, in turns, medians reported. */
export async function main(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      json: { type: 'boolean' },
      seconds: { type: 'string', default: '5' },
      rounds: { type: 'string', default: '3' },
      messages: { type: 'string', default: '1000' },
    },
  })
  const names = positionals.length > 0 ? positionals : Object.keys(BENCHES)
  const unknown = names.filter((name) => !Object.hasOwn(BENCHES, name))
  if (unknown.length > 0)
    throw new Stop(`There is no benchmark “${unknown.join('”, “')}”. There are: ${Object.keys(BENCHES).join(', ')}.`)
  const how = {
    seconds: Number(values.seconds),
    rounds: Number(values.rounds),
    messages: Number(values.messages),
    say: sayBeside,
  }
  const results: Result[] = []
  await withSetting(join(RUN, `bench-${process.pid}`), how, async (setting) => {
    for (const name of names) results.push(await BENCHES[name]!(setting))
  })
  if (values.json) say(JSON.stringify(results))
  else for (const one of results) say(lineOf(one))
  return results.some(({ ratio, floor }) => ratio < floor) ? 1 : 0
}

function lineOf({ name, ratio, floor, cpuUs, detail }: Result): string {
  const told = JSON.stringify({ ...(cpuUs && { cpuUs }), ...detail })
  return `${ratio >= floor ? '●' : '✕'} ${name}: ${ratio.toFixed(2)} (floor ${Number(floor.toFixed(2))}) ${told}`
}
