// npm run mutate: breaks one check at a time and runs the tests of its area; a break that no test notices is named. Files are put back whatever happens.
//   npm run mutate                    all that are listed here
//   npm run mutate -- --listed tokens those whose name or file holds one of the words
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { ROOT } from './lib/prepare.mjs'

const CALLER = 'packages/service/src/inbound/steps/service-token.ts'
const PASSWORD = 'packages/service/src/desk/identity/guarded-password.ts'
const MARKS = 'packages/core/src/checks/marks.ts'
const PROVEN = 'packages/service/src/records/proven.ts'
const GATHER = 'packages/service/src/records/statements/gather.ts'
const WRITE = 'packages/service/src/records/statements/messages.ts'
const FIND = 'packages/service/src/records/statements/service-callers.ts'
const GRANT = 'packages/service/src/inbound/messages/token.ts'
const ASSERTION = 'packages/service/src/inbound/steps/client-assertion.ts'
const FRESHNESS = 'packages/service/src/inbound/steps/freshness.ts'
const SCORE = 'packages/service/src/inbound/messages/score.ts'
const TABLE = 'packages/service/src/inbound/table.ts'
const RUN = 'packages/service/src/inbound/run.ts'
const OUTCOME = 'packages/service/src/inbound/messages/outcome.ts'
const LINE_ITEMS = 'packages/service/src/desk/services/line-items.ts'
const CLAIMS = 'packages/service/src/desk/services/claims.ts'
const TOKEN = 'packages/core/src/lti13/token.ts'
const JWS = 'packages/core/src/lti13/jws.ts'
const KEYSET = 'packages/core/src/lti13/keyset.ts'
const TOTALS = 'packages/core/src/scores/totals.ts'
const STATE = 'packages/core/src/scores/state.ts'
const TWINS = 'packages/core/src/scores/twins.ts'
const COMPARE = 'packages/core/src/reconciliation/compare.ts'
const REASON = 'packages/core/src/reconciliation/reason.ts'
const RESEAL = 'packages/service/src/keys/reseal.ts'
const KEY_FILE = 'packages/service/src/keys/key-file.ts'
const SETTINGS = 'packages/service/src/settings/settings.ts'
const ROUTES = 'packages/service/src/http/api/routes.ts'
const SIGN_INS = 'packages/service/src/records/statements/sign-ins.ts'
const ROSTER = 'packages/service/src/records/roster-imports.ts'

/** What is broken, where, how, and the test files that have to notice. */
const LISTED = [
  ['findings: a warning is accepted whatever its rule finds', 'packages/service/src/desk/assignments/surroundings.ts', 'rule === remark.rule && isDeepStrictEqual(facts, remark.facts)', 'rule === remark.rule', ['assignment-life']],
  ['findings: carried over whatever was accepted', 'packages/service/src/desk/assignments/carry-acceptances.ts', 'rule === one.rule && statement === one.statement', 'rule === one.rule', ['upgrade-findings']],
  ['findings: names stay in them', 'packages/service/src/records/person-data.ts', 'await this.forgetName(id, fullName)', '', ['person-data']],
  ['findings: what was received before is not read', 'packages/service/src/records/migrations/30-findings-as-facts.ts', "case when g.sent is not null then 'score'", "case when false then 'score'", ['upgrade-findings']],
  ['findings: any refusal of a test learner', 'packages/service/src/records/rehearsals.ts', "f.code = 'refuses_test_learner'", "f.verdict is not null", ['upgrade-findings']],
  ['findings: names that every object has', 'packages/core/src/checks/findings/catalogue.ts', 'Object.hasOwn(codes, code) ?', 'true ?', ['findings']],
  ['findings: figures are a change', 'packages/core/src/checks/compare-soundings.ts', "typeof value === 'number' ? 0 :", '', ['soundings']],
  ['findings: what is expected bars the way', 'packages/service/src/desk/soundings/run-sounding.ts', '!EXPECTED.has(check)', 'check.length > 0', ['soundings-in-depth']],
  ['findings: a sweep tells one cause in many lines', 'packages/service/src/desk/sweeps/read-sweep.ts', 'const key = JSON.stringify([row.tool.id, cause])', 'const key = JSON.stringify([row.tool.id, cause, lines.size])', ['upgrade-findings']],
  ['messages: what text cannot hold', 'packages/service/src/records/statements/messages.ts', "value.includes('\\0') ? value.replaceAll('\\0', '\\ufffd') : value", 'value', ['unstorable']],
  ['messages: what JSON cannot hold', 'packages/service/src/records/statements/messages.ts', 'if (!UNSTORABLE.test(text)) return text', 'return text', ['unstorable']],
  ['signatures: more is left unencoded', 'packages/core/src/oauth1/encoding.ts', '/^[\\w.~-]*$/', '/^[\\w.~+-]*$/', ['oauth1']],
  ['removing a person: an open account', 'packages/service/src/desk/identity/person-data.ts', "if (person.closedAt === null) throw new Refusal('person.open', person.username)", '', ['person-data']],
  ['removing a person: tools know who comes later', 'packages/service/src/desk/identity/person-data.ts', 'subject: context.ids.secret().slice(0, 32),', '', ['person-data']],
  ['removing a person: messages stay', 'packages/service/src/records/person-data.ts', 'delete from wire_entry where person_id = $1 returning 1', 'select 1 from wire_entry where person_id = $1', ['person-data']],
  ['data of a person: secrets go along', 'packages/service/src/records/person-data.ts', " - $2::text[] as row", ' as row, $2::text[] as x', ['person-data']],
  ['whatever is sent: a tool of another course is known', 'packages/service/src/desk/places/usable-tool.ts', 'if (isHiddenFrom(tool, [courseId]))', 'if (false as boolean)', ['access']],
  ['whatever is sent: names that every object has', 'packages/core/src/text/entry.ts', 'Object.hasOwn(table, name) ? table[name] : undefined', 'table[name]', ['any-text']],
  ['whatever is sent: what never becomes a request has no code', 'packages/service/src/http/server.ts', 'clientErrorHandler: refuseUnread,', '', ['hostile']],
  ['whatever is sent: revisions beyond the records', 'packages/contract/src/resources/common.ts', '.max(2 ** 31 - 2)', '', ['any-call']],
  ['whatever is sent: moments beyond the records', 'packages/service/src/records/paging.ts', ' || !/^\\d{4}-/.test(text)', '', ['any-call']],
  ['whatever is sent: an enrolment is changed by nothing', 'packages/contract/src/resources/people.ts', 'change.role !== undefined || change.state !== undefined', 'change !== undefined', ['any-call']],
  ['access tokens: signature not verified', CALLER, "jws.type !== 'at+jwt' || verifyJws(jws, keys, verifyRs256))", "jws.type !== 'at+jwt')", ['service-tokens']],
  ['access tokens: whatever their header calls them', CALLER, "jws.type !== 'at+jwt' || ", '', ['service-tokens']],
  ['sealing anew: what cannot be opened is passed over', RESEAL, 'for (const value of await new SealedValues(database.manager).all()) open(before, value)', '', ['reseal']],
  ['sealing anew: two at once', 'packages/service/src/records/sealed-values.ts', 'return lock.mine ?', 'return lock ?', ['reseal']],
  ['sealing anew: the first key goes, too', KEY_FILE, 'id !== first && id !== content.current', 'id !== content.current', ['reseal']],
  ['sealing anew: a running process reads the file once', KEY_FILE, 'if (!held.keys.has(id)) held = heldOf(path)', '', ['reseal']],
  ['sealing anew: hints of before are nothing', KEY_FILE, "...others.map((key) => derive(key, 'login hints')),", '', ['reseal']],
  ['rations: counted when the body is read', ROUTES, "hook: 'preParsing' as const", "hook: 'preHandler' as const", ['rations']],
  ['rations: one for everybody', ROUTES, ': request.caller!.actor.id}`', ": ''}`", ['rations']],
  ['rations: uploads without end', 'packages/service/src/http/api/files.ts', "config: { rateLimit: limited('uploadFile', instructing, UPLOADS_PER_HOUR, '1 hour') },", '', ['rations']],
  ['papers of the API: for anybody', 'packages/service/src/http/server.ts', "schema: { hide: true }, onRequest: signedIn }", 'schema: { hide: true } }', ['doors']],
  ['papers of the API: their pages for anybody', 'packages/service/src/http/server.ts', 'uiHooks: { onRequest: signedIn },', '', ['doors']],
  ['version: strangers get all of it', 'packages/service/src/http/lti/discovery.ts', ".slice(0, 2).join('.')", ".join('.')", ['doors']],
  ['settings: records go readable over the network', SETTINGS, 'if (!plainDatabase && !isGuarded(databaseUrl))', 'if (false as boolean)', ['settings']],
  ['settings: the first of two answers counts', SETTINGS, 'searchParams.getAll(name).at(-1)', 'searchParams.get(name)', ['settings']],
  ['addresses: one that begins like this machine', 'packages/core/src/links/open-address.ts', '(\\.\\d{1,3}){3}$|', '\\.|', ['settings']],
  ['rosters: read for as long as it takes', 'packages/service/src/workers/pool.ts', 'signal: AbortSignal.timeout(limitMs)', '', ['rosters']],
  ['searches: all at once', 'packages/service/src/records/wire.ts', '(filter.search ? searches.take(read, readerGone()) : read())', 'read()', ['held-rows']],
  ['turns: who leaves keeps the place', 'packages/service/src/workers/turns.ts', 'this.waiting.splice(this.waiting.indexOf(come), 1)', '', ['turns']],
  ['set-up: other codes stay good', 'packages/service/src/records/sign-ins.ts', 'where exists (select 1 from setup_code where code_hash = $1)', 'where code_hash = $1', ['sign-in']],
  ['sessions: idle ones go on', SIGN_INS, 'if (unusedMs >= idleMs) return undefined', '', ['doors']],
  ['sessions: an open window is use', SIGN_INS, 'if (isUse && unusedMs', 'if (unusedMs', ['doors']],
  ['sessions: a sister host sets the cookie', 'packages/service/src/http/caller.ts', "return publicUrl.startsWith('https:') ?", 'return publicUrl === "" ?', ['doors']],
  ['heads of requests: as slow as they like', 'packages/service/src/http/server.ts', 'headersTimeout: 10_000, connectionsCheckingInterval: 2_000', '', ['hostile']],
  ['filters tell what is not taught', 'packages/service/src/http/api/work.ts', "if (!isTaught(courses, id)) throw new Refusal('course.not_found', ref)", '', ['doors']],
  ['outgoing requests: any port', 'packages/service/src/wire/guard.ts', 'if (BAD_PORTS.has(Number(url.port)))', 'if (false as boolean)', ['settings']],
  ['titles: items of any for tools that want theirs', 'packages/service/src/desk/outline/items.ts', 'checkTitle(title, tool)', '', ['outline']],
  ['titles: an assignment is its own double', 'packages/service/src/desk/assignments/surroundings.ts', 'sameTitle: (this.byTitle.get(one.title.toLowerCase()) ?? []).filter((other) => other.id !== one.id).length,', 'sameTitle: (this.byTitle.get(one.title.toLowerCase()) ?? []).length,', ['outline']],
  ['access tokens: never over', CALLER, 'nowSeconds: Math.floor(context.clock.now().getTime() / 1000)', 'nowSeconds: 0', ['service-tokens']],
  ['access tokens: of a retired tool', CALLER, "  if (tool.state !== 'enabled' && tool.state !== 'suspended') return new Refusal('service_token.unknown')\n", '', ['service-tokens']],
  ['access tokens: suspended tools write on', CALLER, "if (tool.state === 'suspended' && !(tool.scoresWhileSuspended", "if (tool.state === 'draft' && !(tool.scoresWhileSuspended", ['service-tokens']],
  ['access tokens: scope taken back still opens', CALLER, '|| !holdsScope(tool.scopes, scope)', '', ['service-tokens']],
  ['access tokens: an id_token is one', 'packages/core/src/lti13/token.ts', 'iss !== expected.issuer || aud !== expected.issuer ||', 'iss !== expected.issuer ||', ['lti13']],
  ['assertions: nbf', 'packages/core/src/lti13/token.ts', 'if (isNotYet(nbf, nowSeconds + leewaySeconds))', 'if (false as boolean)', ['service-tokens']],
  ['outcomes: result identifier of another tool', OUTCOME, 'return caller.tool.id === link.registration.id', 'return caller.tool.id.length > 0', ['service-tokens', 'grading']],
  ['scores: microseconds cut', SCORE, 'sentAt: sent.sentAt,', 'sentAt: sent.timestamp,', ['service-tokens']],
  ['signatures: a beginning is enough', 'packages/core/src/oauth1/digest.ts', 'a.length !== b.length', 'false as boolean', ['oauth1']],
  ['passwords: misses counted after the check', PASSWORD, 'if (waitMs > 0) {', 'if (waitMs > 0 && given.password === "") {', ['guessing']],
  ['passwords: known places wait for strangers', 'packages/core/src/identity/guessing.ts', 'if (!facts.isKnownHere) waits', 'waits', ['guessing']],
  ['passwords: each spelling counts for itself', 'packages/service/src/desk/identity/sign-in.ts', 'plainUsername(given.username)', 'given.username', ['guessing']],
  ['sessions: CSRF token of any session', 'packages/service/src/http/server.ts', 'getUserInfo: (request) => request.sessionId,', "getUserInfo: () => 'all',", ['doors', 'sign-in']],
  ['sessions: tokens outlive passwords', 'packages/service/src/desk/identity/people.ts', "await records.signIns.revokeTokens(person.id, now)\n      await records.connections", 'await records.connections', ['doors']],
  ['bodies are read before it is known who calls', 'packages/service/src/http/api/routes.ts', 'onRequest: async (request, reply) => {', 'preHandler: async (request, reply) => {', ['one-message']],
  ['rosters: a made-up name ties', ROSTER, 'where x.exact and p.username = x.username', 'where p.username = x.username', ['rosters-people']],
  ['rosters: two rows are one person', ROSTER, 'where d.key = x.key and d.n > 1', 'where d.key = x.key and d.n > 100', ['rosters-people']],
  ['proof: does not age', MARKS, 'return change && change.at >= evidence.at', 'return change && change.at > new Date(8e15)', ['checks', 'proof-ages']],
  ['proof: a hidden unit is published', MARKS, 'if (hidden)', 'if (hidden && opensAt)', ['checks', 'proof-ages']],
  ['proof: Watch forgets changes', PROVEN, 'and m.recorded > greatest(m.changed, own.points_at)', 'and m.recorded is not null', ['judged-in-numbers']],
  ['proof: Watch forgets failures', PROVEN, '(e.failure is null or l.taken > e.failure) and ', '', ['judged-in-numbers']],
  ['proof: Watch forgets complaints', PROVEN, '(e.complaint is null or greatest(l.taken, l.entered) > e.complaint)', 'true', ['judged-in-numbers']],
  ['proof: Watch takes scores of who never entered', PROVEN, 'w.assignment_id = a.id and w.person_id = n.person_id', 'w.assignment_id = a.id', ['judged-in-numbers']],
  ['proof: Watch forgets refusals', PROVEN, "s.outcome = 'refused' order by", "s.outcome = 'none' order by", ['judged-in-numbers']],
  ['proof: Watch believes the gradebook', PROVEN, '(n.at is null or n.agrees or e.recorded > n.at)', 'true', ['judged-in-numbers']],
  ['proof: Watch takes own addresses for the tool’s', PROVEN, 'else of_tool.but_address', 'else of_tool.at', ['judged-in-numbers']],
  ['proof: of two in one moment the good one', MARKS, 'a !== null && a.at > b.at', 'a !== null && a.at >= b.at', ['checks']],
  ['proof: a change of points hides a later one', MARKS, 'change.at > pointsChange.at ? change : pointsChange', 'pointsChange', ['checks']],
  ['key file: another one is taken', 'packages/service/src/keys/check-keys.ts', 'if ((await keyMark(database)) !== keys.mark)', 'if (keys.mark === "")', ['key-file']],
  ['reads go on when nobody waits', 'packages/service/src/service.ts', 'cancelAbandoned(poolOf(database), messages)', '', ['held-rows']],
  ['a held row holds up all', 'packages/service/src/records/database.ts', 'lock_timeout: MESSAGE_LOCK_MS', 'lock_timeout: 20_000', ['held-rows']],
  ['pasted lines read in cubic time', 'packages/core/src/diagnosis/pasted.ts', "const value = cutEnd(line.trim().slice(found[0].length).trim(), ',').trimEnd()", "const value = /^\\s*(.*?)\\s*,?\\s*$/.exec(line.slice(line.indexOf(found[0]) + found[0].length))?.[1] ?? ''", ['linear']],
  ['access tokens: outlive the key that signed them', 'packages/service/src/desk/platform/keyring.ts', 'one.endsAt === null || one.endsAt > now', 'one.endsAt !== now', ['other-tools']],
  ['access tokens: kept as good after their key', CALLER, 'if (seen && keys.some((key) => key.kid === seen.kid))', 'if (seen)', ['other-tools']],
  ['connections: courses by one that has ended', CALLER, 'if (!connection || connection.revokedAt || connection', 'if (!connection || connection', ['other-tools']],
  ['connections: courses by another tool’s', CALLER, '|| connection.tool.id !== tool.id)', ')', ['other-tools']],
  ['connections: courses of a retired tool', CALLER, "|| !tool || (tool.state !== 'enabled' && tool.state !== 'suspended'))", '|| !tool)', ['other-tools']],
  ['connections: courses of a suspended tool', CALLER, "if (tool.state === 'suspended') return", "if (tool.state === 'draft') return", ['other-tools']],
  ['connections: scopes are not asked for', CALLER, "if (!holdsScope(caller.connectionScopes ?? [], scope)) return new Refusal('service_token.scope', scope)", '', ['other-tools']],
  ['columns: of another tool', FIND, 'a.registration_id = r.id and a.state', 'a.state', ['other-tools']],
  ['columns: of another course', FIND, 'a.id = asked.item and a.course_id = c.id', 'a.id = asked.item', ['other-tools']],
  ['columns: deleted ones', FIND, "and a.state <> 'deleted'\nleft join assignment into_", '\nleft join assignment into_', ['other-tools']],
  ['connections: of a closed account', FIND, 'and own.closed_at is null', '', ['other-tools']],
  ['connections: of a dropped instructor', FIND, "e.role = 'instructor' and e.state = 'active'", "e.role = 'instructor'", ['other-tools']],
  ['connections: of another tool', FIND, 'o.id = asked.connection and o.registration_id = r.id', 'o.id = asked.connection', ['other-tools']],
  ['connections: that have ended', FIND, 'and o.revoked_at is null', '', ['other-tools', 'connections']],
  ['grants: of another tool', 'packages/service/src/records/connections.ts', 'g.kind = $2 and k.registration_id = $3', "g.kind = $2 and $3 <> ''", ['other-tools']],
  ['grants: one tool ends another’s', 'packages/service/src/inbound/messages/revocation.ts', 'if (found?.registrationId === client.id)', 'if (found)', ['other-tools']],
  ['grants: keep scopes that the tool lost', GRANT, 'connection.scopes.filter((one) => client.scopes.includes(one))', 'connection.scopes', ['other-tools']],
  ['assertions: forgotten while they are good', FRESHNESS, 'expiresSeconds, leewaySeconds(context), MARGIN_SECONDS', 'expiresSeconds, 0, 0', ['other-tools']],
  ['assertions: ending a connection uses none up', TABLE, '.fresh(client.assertionNonce, client.assertionUsed)\n    .take(revoked)', '.take(revoked)', ['other-tools']],
  ['nonces: forgotten while a message is good', FRESHNESS, 'settings.clockToleranceSeconds, settings.nonceMinutes * 60', 'settings.clockToleranceSeconds, -60', ['scores-between']],
  ['inbound: what is ours to mend is held against the sender', RUN, 'isOurs(refusal) || ', '', ['inbound']],
  ['inbound: what comes too often fills the log', RUN, ' || refusal.status === TOO_MANY', '', ['inbound']],
  ['inbound: read again for ever', RUN, 'attempt > TRIES ?', 'attempt > 5 * TRIES ?', ['inbound']],
  ['inbound: a nonce is used up twice', RUN, 'nonce: undefined } }, one.reached.used()', '} }, one.reached.used()', ['inbound']],
  ['inbound: answered before it is signed', RUN, 'await Promise.all([write(one, { outcome, statement, ...kept }), taken.beside])', 'await Promise.all([write(one, { outcome, statement, ...kept })])', ['inbound', 'tokens']],
  ['inbound: something newer is read over and over', RUN, 'return over ? refuse(one, over, ', 'return over === null ? refuse(one, over, ', ['inbound']],
  ['inbound: strangers’ returns are kept', RUN, "if (!about) return", "if (about === null) return", ['inbound', 'launch']],
  ['nonces: a refused message uses none up', RUN, '...(nonce && { nonce }),', "...(nonce && parts.outcome !== 'refused' && { nonce }),", ['scores-between']],
  ['outcomes: who instructs by now takes scores', OUTCOME, "(enrolment?.state === 'active' && isScored(enrolment.role))", "enrolment?.state === 'active'", ['scores-between']],
  ['outcomes: a refused score keeps its points', OUTCOME, 'code: refusal.code, fraction: null, points: null }', 'code: refusal.code }', ['scores-between']],
  ['outcomes: what was handed in is lost', 'packages/service/src/inbound/messages/outcome-score.ts', 'resultData: asked.resultData ?? null', 'resultData: null', ['scores-between']],
  ['columns: other points leave the results', LINE_ITEMS, 'if (!sameNumber(locked.points, wanted.points)) await recompute(records, [id])', '', ['scores-between']],
  ['columns: results of a merged one', LINE_ITEMS, 'column.mergedInto ?? id', 'id', ['scores-between']],
  ['columns: moved to another link', LINE_ITEMS, "throw new Refusal('line_item.link_fixed')", 'void 0', ['other-tools']],
  ['columns: a link of another tool', LINE_ITEMS, 'await requireOwnLink(context, caller, wanted.resourceLinkId)', '', ['other-tools']],
  ['columns: as many as it likes', LINE_ITEMS, '>= MOST_COLUMNS', '< 0', ['scores-between']],
  ['columns: deleted without a word', LINE_ITEMS, "await act(context, caller, { action: 'tool deleted column', id, before, after: null }, (records) =>\n    records.columns.remove(id, context.clock.now()),\n  )", 'await context.records.columns.remove(id, context.clock.now())', ['scores-between']],
  ['scores: of points that were', RUN, 'attempt > TRIES ?', 'attempt > 1 ?', ['scores-between']],
  ['scores: refused ones are not in the trail', TABLE, '.refuse(score.refuseScored)', '', ['scores-between', 'scores-13']],
  ['scores: of points that change meanwhile', WRITE, 'and a.points = x.out_of', '', ['scores-between']],
  ['scores: an older one of another process stands', WRITE, 'where r.sent_at is null or excluded.sent_at is null or r.sent_at < excluded.sent_at', '', ['scores-between']],
  ['scores: to a column merged meanwhile', WRITE, 'and a.merged_into is null', '', ['scores-between']],
  ['claims: the roster without its scope', CLAIMS, '...(scopes.includes(MEMBERSHIP_SCOPE) && {', '...(scopes && {', ['other-tools']],
  ['claims: outcomes without their scope', CLAIMS, '...(scopes.includes(OUTCOMES_SCOPE) &&', '...(', ['other-tools']],
  ['claims: an instructor’s result', CLAIMS, '...(isScored(enrolment?.role) && {', '...(enrolment && {', ['other-tools']],
  ['sessions: of any age hand out secrets', 'packages/service/src/http/caller.ts', "if (access.freshOnly && actor.via === 'session') requireFresh(context, actor)", '', ['fresh-password']],
  ['sessions: fresh by a wrong password', 'packages/service/src/desk/identity/sign-in.ts', 'if (right) await within.signIns.confirmSession', 'await within.signIns.confirmSession', ['fresh-password']],
  ['sessions: fresh for all of a person', 'packages/service/src/records/sign-ins.ts', 'await this.manager.update(SessionRecord, { id }, { confirmedAt: at })', "await this.manager.query('update session set confirmed_at = $1', [at])", ['fresh-password']],
  ['reviews: in any state', 'packages/core/src/lti13/line-items.ts', '(activity !== null && statuses.includes(activity))', 'true', ['grading']],
  ['reviews: their states are lost', LINE_ITEMS, '...(row.reviewStatuses && { reviewableStatus: row.reviewStatuses }),', '', ['line-items']],
  ['results: who gave what an instructor set', 'packages/service/src/records/columns.ts', 'case when not r.overridden then (', 'case when true then (', ['line-items']],
  ['addresses: half a word of a path moves', 'packages/core/src/links/moved-address.ts', "|| !/^[/?#]?$/.test(rest.charAt(start.path.length))", '', ['moved-addresses']],
  ['addresses: taken back over what was changed since', 'packages/service/src/records/address-moves.ts', 'where x.id = m.id and x.${field} = m.before', 'where x.id = m.id', ['moving-addresses']],
  ['addresses: of other courses move, too', 'packages/service/src/records/address-moves.ts', 'and ($2::text is null or x.course_id = $2)', 'and ($2::text is null or true)', ['moving-addresses']],
  ['tables: somebody’s session is published', 'packages/service/src/desk/assignments/table.ts', "|| (rule === 'session_parameters' && accepted === undefined)", '', ['assignment-table']],
  ['handing on: looking sends', 'packages/service/src/desk/records-office/hand-on.ts', 'if (asked.check) {', 'if (asked.check && ids.length < 0) {', ['records-office']],
  ['gathered: what is held keeps its place', GATHER, 'if (goesApart && !isApart) return true', 'if (goesApart === undefined) return true', ['gather']],
  ['tokens: our audience is not asked for', TOKEN, "!audiences.some((one) => typeof one === 'string' && expected.audiences.includes(one))", 'audiences.length === 0', ['lti13']],
  ['tokens: expired a moment ago', TOKEN, 'exp <= nowSeconds - leewaySeconds', 'exp < nowSeconds - leewaySeconds', ['lti13']],
  ['tokens: good a second too long', TOKEN, 'exp > nowSeconds + LIFETIME_SECONDS + leewaySeconds', 'exp > nowSeconds + LIFETIME_SECONDS + leewaySeconds + 1', ['lti13']],
  ['tokens: identifiers of 256 characters', TOKEN, 'jti.length > MAX_ID_CHARACTERS', 'jti.length > MAX_ID_CHARACTERS + 1', ['lti13']],
  ['tokens: ours are never over', TOKEN, 'exp > expected.nowSeconds', 'exp > 0', ['lti13']],
  ['tokens: of four parts', JWS, 'parts.length !== 3 || ', '', ['lti13']],
  ['tokens: an empty key identifier', JWS, "|| head['kid'] === '')", ')', ['lti13']],
  ['tokens: a character too long', JWS, 'token.length > maxCharacters', 'token.length > maxCharacters + 1', ['lti13']],
  ['keysets: for another algorithm', KEYSET, "(alg !== undefined && alg !== 'RS256')", 'alg === 7', ['lti13']],
  ['keysets: 8,193 bits', KEYSET, 'bits > MAX_BITS', 'bits > MAX_BITS + 1', ['lti13']],
  ['keysets: exponents of nine bytes', KEYSET, 'bytes.length <= 8', 'bytes.length <= 9', ['lti13']],
  ['oauth: nonces of 255', 'packages/core/src/oauth1/verify.ts', 'nonce.length > MAX_NONCE_CHARACTERS', 'nonce.length >= MAX_NONCE_CHARACTERS', ['oauth1']],
  ['oauth: REALM is signed', 'packages/core/src/oauth1/authorization-header.ts', "name.toLowerCase() !== 'realm'", "name !== 'realm'", ['oauth1']],
  ['oauth: a name in the address is signed', 'packages/core/src/oauth1/base-string.ts', ".replace(/^.*@/, '')", '', ['oauth1']],
  ['totals: columns of no weight', TOTALS, "|| (weights.size > 0 && !weights.has(column.category ?? ''))", '', ['counting']],
  ['totals: a category of no points', TOTALS, '.filter(([, part]) => part.outOf.gt(0))', '', ['counting']],
  ['totals: nothing weighs', TOTALS, "if (weight.eq(0)) return { earned: null, outOf: '100' }", '', ['counting']],
  ['states: points by hand alone', STATE, "if (facts.overridden) return { state: facts.comment ? 'returned' : 'graded', at: resultAt }", '', ['counting']],
  ['states: who began has worked', STATE, "activity === 'Initialized' ? 'opened' : 'started'", "'started'", ['counting']],
  ['states: the earlier of two is the last', STATE, '(a > b ? a : b)', '(a > b ? b : a)', ['counting']],
  ['twins: two of no link', TWINS, 'made.linkId !== null && ', '', ['counting']],
  ['twins: two of no content', TWINS, 'made.resourceId !== null && ', '', ['counting']],
  ['reconciling: identifiers with blanks', COMPARE, 'line.identifier.trim().toLowerCase()', 'line.identifier.toLowerCase()', ['reconciliation']],
  ['reconciling: identifiers as written', COMPARE, 'one.identifiers.map((each) => each.toLowerCase())', 'one.identifiers', ['reconciliation']],
  ['reconciling: emails with blanks', COMPARE, 'line.email.trim().toLowerCase()', 'line.email.toLowerCase()', ['reconciliation']],
  ['reconciling: an identifier of two', COMPARE, 'if (called?.length === 1)', 'if (called)', ['reconciliation']],
  ['reconciling: an email of two', COMPARE, 'if (mails?.length === 1)', 'if (mails)', ['reconciliation']],
  ['reconciling: who has no points is missed', COMPARE, '&& person.points !== null)', ')', ['reconciliation']],
  ['reconciling: a percent is of the column', COMPARE, "read?.percent ? '100' : ", '', ['reconciliation']],
  ['reconciling: numbers of any length', COMPARE, '|| trimmed.length > 40', '', ['reconciliation']],
  ['reconciling: a refusal in the same moment', REASON, 'facts.refused.at > last.at', 'facts.refused.at >= last.at', ['reconciliation']],
  ['reconciling: nearly the same', REASON, "lt('0.006')", "lte('0.006')", ['reconciliation']],
  ['reconciling: heads say nothing', 'packages/core/src/reconciliation/columns.ts', "take('score', numbers.at(-1))", "take('score', numbers[0])", ['reconciliation']],
] // oxfmt-ignore

/** What hangs is noticed, too. */
const LIMIT_MS = 180_000
const { values, positionals } = parseArgs({
  options: { listed: { type: 'boolean' }, help: { type: 'boolean' } },
  allowPositionals: true,
})
if (values.help) {
  console.log('npm run mutate [-- --listed WORD…]: breaks one check at a time, and names those that no test notices.')
  process.exit()
}

/** What puts the present file back, and ends the tests that run on it. */
let putBack = () => undefined
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    putBack()
    process.exit(1)
  })

/** @returns whether the tests noticed */
async function isNoticed(file, before, from, to, tests) {
  const path = join(ROOT, file)
  const args = ['run', '--bail', '1', '--reporter', 'dot', ...tests.map((one) => `/${one}.test`)]
  let run
  putBack = () => {
    run?.kill()
    writeFileSync(path, before)
  }
  try {
    writeFileSync(
      path,
      before.replace(from, () => to),
    )
    run = spawn(join(ROOT, 'node_modules/.bin/vitest'), args, { cwd: ROOT, stdio: 'ignore', timeout: LIMIT_MS })
    const [status] = await once(run, 'close')
    return status !== 0
  } finally {
    putBack()
    putBack = () => undefined
  }
}

const survived = []
for (const [name, file, from, to, tests] of LISTED) {
  if (positionals.length > 0 && !positionals.some((word) => `${name} ${file}`.includes(word))) continue
  const before = readFileSync(join(ROOT, file), 'utf8')
  if (!before.includes(from)) {
    survived.push(`${name} (its text is not in ${file} any more)`)
    console.log(`? ${name}`)
    continue
  }
  const noticed = await isNoticed(file, before, from, to, tests)
  console.log(`${noticed ? '● killed' : '✕ survived'}  ${name}`)
  if (!noticed) survived.push(name)
}
if (survived.length > 0) {
  console.log(`\n${survived.length} noticed by no test:\n${survived.map((one) => `  ${one}`).join('\n')}`)
  process.exitCode = 1
}
