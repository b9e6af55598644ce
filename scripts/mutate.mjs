// npm run mutate: breaks one check at a time and runs the tests of its area; a break that no test notices is named. Files are put back whatever happens.
//   npm run mutate                    all that are listed here
//   npm run mutate -- --listed tokens those whose name or file holds the word
import { spawnSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { ROOT } from './lib/prepare.mjs'

const CALLER = 'packages/service/src/desk/services/tool-caller.ts'
const PASSWORD = 'packages/service/src/desk/identity/guarded-password.ts'
const MARKS = 'packages/core/src/checks/marks.ts'
const ROSTER = 'packages/service/src/records/roster-imports.ts'

/** What is broken, where, how, and the test files that have to notice. */
const LISTED = [
  ['access tokens: signature not verified', CALLER, "if ('code' in jws || verifyJws(jws, keys, verifyRs256))", "if ('code' in jws)", ['service-tokens']],
  ['access tokens: never over', CALLER, 'nowSeconds: Math.floor(context.clock.now().getTime() / 1000),\n  })\n  if (!token) throw', 'nowSeconds: 0,\n  })\n  if (!token) throw', ['service-tokens']],
  ['access tokens: of a retired tool', CALLER, "if (tool.state !== 'enabled' && tool.state !== 'suspended') throw new Refusal('service_token.unknown')\n  if (!mayNow", 'if (!mayNow', ['service-tokens']],
  ['access tokens: suspended tools write on', CALLER, "if (!mayNow(tool, call.scope)) throw refuse('service_token.suspended')", '', ['service-tokens']],
  ['access tokens: scope taken back still opens', CALLER, '|| !holdsScope(tool.scopes, call.scope)', '', ['service-tokens']],
  ['access tokens: an id_token is one', 'packages/core/src/lti13/token.ts', 'iss !== expected.issuer || aud !== expected.issuer ||', 'iss !== expected.issuer ||', ['lti13']],
  ['assertions: nbf', 'packages/core/src/lti13/token.ts', 'if (isNotYet(nbf, nowSeconds + leewaySeconds))', 'if (false as boolean)', ['service-tokens']],
  ['outcomes: result identifier of another tool', 'packages/service/src/desk/outcomes/receive-outcome.ts', 'return tool.id === link.registration.id ? undefined', 'return tool.id ? undefined', ['service-tokens']],
  ['scores: microseconds cut', 'packages/service/src/desk/services/receive-score.ts', 'sentAt: score.sentAt,', 'sentAt: score.timestamp,', ['service-tokens']],
  ['signatures: a beginning is enough', 'packages/core/src/oauth1/digest.ts', 'a.length !== b.length', 'false as boolean', ['oauth1']],
  ['passwords: misses counted after the check', PASSWORD, 'if (waitMs > 0) {', 'if (waitMs > 0 && given.password === "") {', ['guessing']],
  ['passwords: known places wait for strangers', 'packages/core/src/identity/guessing.ts', 'if (!facts.isKnownHere) waits', 'waits', ['guessing']],
  ['passwords: each spelling counts for itself', 'packages/service/src/desk/sign-in.ts', 'plainUsername(given.username)', 'given.username', ['guessing']],
  ['sessions: CSRF token of any session', 'packages/service/src/http/server.ts', 'getUserInfo: (request) => request.sessionId,', "getUserInfo: () => 'all',", ['doors', 'sign-in']],
  ['sessions: tokens outlive passwords', 'packages/service/src/desk/people.ts', "await records.signIns.revokeTokens(person.id, now)\n      await records.connections", 'await records.connections', ['doors']],
  ['bodies are read before it is known who calls', 'packages/service/src/http/api/routes.ts', 'onRequest: async (request, reply) => {', 'preHandler: async (request, reply) => {', ['one-message']],
  ['rosters: a made-up name ties', ROSTER, 'where x.exact and p.username = x.username', 'where p.username = x.username', ['rosters-people']],
  ['rosters: two rows are one person', ROSTER, 'where d.key = x.key and d.n > 1', 'where d.key = x.key and d.n > 100', ['rosters-people']],
  ['proof: does not age', MARKS, 'return change && change.at >= evidence.at', 'return change && change.at > new Date(8e15)', ['checks', 'proof-ages']],
  ['proof: a hidden unit is published', MARKS, 'if (hidden)', 'if (hidden && opensAt)', ['checks', 'proof-ages']],
  ['proof: Watch forgets changes', 'packages/service/src/records/proven.ts', 'and m.recorded > coalesce(greatest(change.at, change.points_at), m.never)', '', ['proof-ages']],
  ['key file: another one is taken', 'packages/service/src/keys/check-keys.ts', 'if ((await keyMark(database)) !== keys.mark)', 'if (keys.mark === "")', ['key-file']],
  ['reads go on when nobody waits', 'packages/service/src/service.ts', 'cancelAbandoned(poolOf(database), messages)', '', ['held-rows']],
  ['a held row holds up all', 'packages/service/src/records/database.ts', 'lock_timeout: MESSAGE_LOCK_MS', 'lock_timeout: 20_000', ['held-rows']],
  ['pasted lines read in cubic time', 'packages/core/src/diagnosis/pasted.ts', "const value = cutEnd(line.trim().slice(found[0].length).trim(), ',').trimEnd()", "const value = /^\\s*(.*?)\\s*,?\\s*$/.exec(line.slice(line.indexOf(found[0]) + found[0].length))?.[1] ?? ''", ['linear']],
] // prettier-ignore

/** What hangs is noticed, too. */
const LIMIT_MS = 180_000
const { values } = parseArgs({ options: { listed: { type: 'string' } }, allowPositionals: true, strict: false })
const word = typeof values.listed === 'string' ? values.listed : ''
const survived = []
for (const [name, file, from, to, tests] of LISTED) {
  if (!`${name} ${file}`.includes(word)) continue
  const path = join(ROOT, file)
  const before = readFileSync(path, 'utf8')
  if (!before.includes(from)) {
    survived.push(`${name} (its text is not in ${file} any more)`)
    console.log(`? ${name}`)
    continue
  }
  let status
  try {
    writeFileSync(
      path,
      before.replace(from, () => to),
    )
    const args = ['run', '--bail', '1', '--reporter', 'dot', ...tests.map((one) => `/${one}.test`)]
    status = spawnSync(join(ROOT, 'node_modules/.bin/vitest'), args, {
      cwd: ROOT,
      stdio: 'ignore',
      timeout: LIMIT_MS,
    }).status
  } finally {
    writeFileSync(path, before)
  }
  console.log(`${status === 0 ? '✕ survived' : '● killed'}  ${name}`)
  if (status === 0) survived.push(name)
}
if (survived.length > 0) {
  console.log(`\n${survived.length} noticed by no test:\n${survived.map((one) => `  ${one}`).join('\n')}`)
  process.exitCode = 1
}
