import type { Parameter } from '../../../oauth1/encoding.js'
import type { Mistake, Way } from '../mistake.js'
import type { Signing } from '../signing.js'
import { namesOf } from '../spellings.js'

const MOST_TRIED = 80
const MOST_OF_TWO = 12
/** What forms and frameworks add by themselves. */
const ADDED =
  /^(utf8|commit|submit|ext_submit|authenticity_token|csrf\w*|_csrf|_token|_method|button|op|x|y|go|lti_submit|basiclti_submit|launch)$/i

const isOwn = ([name]: Parameter) => name.startsWith('oauth_')
const without = (leave: (one: Parameter) => boolean) => ({ fields }: Signing) => ({ fields: fields.filter((one) => !leave(one)) }) // oxfmt-ignore

/** Parameters were added behind the signature: leaving them out makes it match. */
export const changedAfterSigning: Mistake = {
  code: 'changed_after_signing',
  name: 'parameters added after signing',
  family: 'fields',
  sentence: 'Parameters were added after the message was signed.',
  ours: 'Look at what is between the two ends: a proxy, a script of the page, a browser extension.',
  theirs: 'Sign after the last parameter is set; a submit button must have no name.',
  ways: (_, { fields }) => {
    const likely = (one: Parameter) => (ADDED.test(one[0]) ? 0 : 1)
    const candidates = fields
      .filter((one) => !isOwn(one) && (one[1] !== '' || ADDED.test(one[0])))
      .sort((a, b) => likely(a) - likely(b))
    const way = (left: readonly Parameter[]): Way => ({
      change: without((one) => left.includes(one)),
      evidence: [['not signed', left.map(([name, value]) => `${name}=${value}`).join(', ').slice(0, 200)]], // oxfmt-ignore
    })
    const last = fields.filter((one) => !isOwn(one)).slice(-3)
    const two = [...new Set([...candidates.filter((one) => likely(one) === 0), ...last])].slice(0, MOST_OF_TWO)
    return [
      ...candidates.slice(0, MOST_TRIED).map((one) => way([one])),
      ...two.flatMap((one, i) => two.slice(i + 1).map((other) => way([one, other]))),
      ...(last.length === 3 ? [way(last)] : []),
    ]
  },
}

export const emptyLeftOut: Mistake = {
  code: 'empty_left_out',
  name: 'empty parameters not signed',
  family: 'fields',
  sentence: 'Parameters without a value were sent, but left out of the signature.',
  ours: null,
  theirs: 'Sign every parameter that is sent, empty ones included.',
  ways: (_, { fields, query }) => {
    const empty = [...query, ...fields].filter(([, value]) => value === '')
    const keep = (pairs: readonly Parameter[]) => pairs.filter(([, value]) => value !== '')
    const all: Way = {
      change: (signing) => ({ fields: keep(signing.fields), query: keep(signing.query) }),
      evidence: [['sent empty', namesOf(empty)]],
    }
    if (empty.length < 2) return empty.length === 0 ? [] : [all]
    return [
      all,
      ...empty.slice(0, MOST_TRIED).map((one): Way => ({ change: without((other) => other === one), evidence: [['sent empty', namesOf([one])]] })), // oxfmt-ignore
    ]
  },
}

/** Whole groups of parameters that code leaves out which knows only some. */
export const groupLeftOut: Mistake = {
  code: 'group_left_out',
  name: 'a group of parameters not signed',
  family: 'fields',
  sentence: 'A whole group of parameters was left out of the signature.',
  ours: null,
  theirs: 'Sign all parameters that are sent, whatever they are called (RFC 5849 section 3.4.1.3.1).',
  ways: (_, { fields }) => {
    const GROUPS: readonly (readonly [string, (one: Parameter) => boolean])[] = [
      ['all but those of OAuth', (one) => !isOwn(one)],
      ['custom_', ([name]) => name.startsWith('custom_')],
      ['ext_', ([name]) => name.startsWith('ext_')],
      ['lis_', ([name]) => name.startsWith('lis_')],
      ['launch_presentation_', ([name]) => name.startsWith('launch_presentation_')],
      ['tool_consumer_', ([name]) => name.startsWith('tool_consumer_')],
      ['all that are not known by the standard', ([name]) => /^(custom|ext)_/.test(name)],
      ['all of OAuth', isOwn],
    ]
    return GROUPS.filter(([, leave]) => fields.some(leave) && !fields.every(leave)).map(([words, leave]) => ({
      change: without(leave),
      evidence: [['not signed', words]],
    }))
  },
}

/** Of OAuth's own parameters some were set too late, or never sent. */
export const oauthFieldsDiffer: Mistake = {
  code: 'oauth_fields_differ',
  name: 'parameters of OAuth signed and not sent, or sent and not signed',
  family: 'fields',
  sentence: 'A parameter of OAuth itself was signed and not sent, or sent and not signed.',
  ours: null,
  theirs: 'Send exactly the parameters that were signed, and oauth_signature beside them.',
  ways: (_, { fields }) => {
    const has = (name: string) => fields.some((one) => one[0] === name)
    const added: [string, string][] = [
      ['oauth_version', '1.0'],
      ['oauth_token', ''],
      ['oauth_callback', 'about:blank'],
      ['oauth_callback', ''],
      ['oauth_callback', 'oob'],
      ['oauth_body_hash', ''],
      ['oauth_signature', ''],
      ['oauth_verifier', ''],
      ['realm', ''],
      ['oauth_token_secret', ''],
      ['utf8', '✓'],
    ]
    const own = ['oauth_version', 'oauth_body_hash', 'oauth_callback', 'oauth_signature_method', 'oauth_nonce', 'oauth_timestamp', 'oauth_token', 'oauth_consumer_key'] // oxfmt-ignore
    return [
      ...own.filter(has).map((name): Way => ({ change: without((one) => one[0] === name), evidence: [['sent and not signed', name]] })), // oxfmt-ignore
      ...added
        .filter(([name]) => !has(name))
        .map(([name, value]): Way => ({
          change: (signing) => ({ fields: [...signing.fields, [name, value]] }),
          evidence: [['signed and not sent', `${name}=${value}`]],
        })),
    ]
  },
}

/** The same name twice is two parameters. */
export const repeatedOnce: Mistake = {
  code: 'repeated_once',
  name: 'parameters of one name signed once only',
  family: 'fields',
  sentence: 'A parameter was sent more than once under one name, and signed once only.',
  ours: null,
  theirs: 'Sign a parameter as often as it is sent (RFC 5849 section 3.4.1.3.2).',
  ways: (_, { fields, query }) => {
    const all = [...query, ...fields]
    const names = all.map(([name]) => name)
    const repeated = [...new Set(names.filter((name, i) => names.indexOf(name) !== i))]
    if (repeated.length === 0) return []
    const once =
      (pick: 'first' | 'last'): Way['change'] =>
      (signing) => {
        const kept = new Map<string, Parameter>()
        for (const one of [...signing.query, ...signing.fields])
          if (pick === 'last' || !kept.has(one[0])) kept.set(one[0], one)
        return { query: [], fields: [...kept.values()] }
      }
    const evidence = (which: string): Way['evidence'] => [['repeated', repeated.join(', ').slice(0, 200)], ['signed', `the ${which} only`]] // oxfmt-ignore
    return [{ change: once('last'), evidence: evidence('last') }, { change: once('first'), evidence: evidence('first') }] // oxfmt-ignore
  },
}
