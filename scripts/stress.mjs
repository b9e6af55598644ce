// Runs the tests several times while the processor is kept busy beside them: what only passes on an idle machine is found here, before somebody else finds it.
//   node scripts/stress.mjs [--times 5] [--cpu 4] [-- what follows goes to the test runner]
import { spawn, spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { ROOT } from './lib/prepare.mjs'

const { values, positionals } = parseArgs({
  options: { times: { type: 'string', default: '5' }, cpu: { type: 'string', default: '4' } },
  allowPositionals: true,
})
const isThere = () => spawnSync('stress-ng', ['--version'], { stdio: 'ignore' }).status === 0
if (!isThere()) {
  spawnSync('apt-get', ['install', '-y', '--no-install-recommends', 'stress-ng'], { stdio: 'inherit' })
  if (!isThere()) {
    console.error('stress-ng is missing. Install it with: apt-get install stress-ng')
    process.exit(1)
  }
}
const rounds = []
for (let round = 1; round <= Number(values.times); round++) {
  const noise = spawn('stress-ng', ['--cpu', values.cpu, '--quiet'], { stdio: 'ignore' })
  const started = Date.now()
  const { status } = spawnSync(process.execPath, [join(ROOT, 'scripts/test.mjs'), ...positionals], { stdio: 'inherit' })
  noise.kill('SIGTERM')
  rounds.push(`${status === 0 ? '●' : '✕'} round ${round}: ${((Date.now() - started) / 1000).toFixed(0)} s`)
  if (status !== 0) process.exitCode = 1
}
console.log(rounds.join('\n'))
