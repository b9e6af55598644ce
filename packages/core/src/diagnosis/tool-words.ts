import { entryOf } from '../text/index.js'

/** What a tool seems to object to, read off its own words. Only a hint: never taken as proof. */
export interface Objection {
  about:
    | 'signature'
    | 'key'
    | 'clock'
    | 'nonce'
    | 'state'
    | 'deployment'
    | 'audience'
    | 'issuer'
    | 'redirect'
    | 'person'
    | 'roles'
    | 'link'
  /** The words that say so. */
  quoted: string
  /** What to look at, beside what was sent. */
  lookAt: string
}

const SIGNS: readonly { about: Objection['about']; pattern: RegExp; lookAt: string }[] = [
  {
    about: 'nonce',
    pattern: /\bnonce\b/i,
    lookAt: 'The nonce: was the same launch posted twice, or does the tool keep nonces longer than it should?',
  },
  {
    about: 'clock',
    pattern: /\b(timestamp|expired|clock|too old|not yet valid|in the future)\b/i,
    lookAt: 'The time at both ends; what was sent stands in the wire entry.',
  },
  {
    about: 'state',
    pattern:
      /\b(state|cookies?|session (was )?(lost|not found)|did not begin this login|login (was )?(lost|unknown))\b/i,
    lookAt: 'Whether the tool’s cookies live in a frame: try a window.',
  },
  {
    about: 'deployment',
    pattern: /\bdeployment\b/i,
    lookAt: 'The deployment identifier, as the tool’s end has it entered.',
  },
  {
    about: 'audience',
    pattern: /\b(audience|aud|client.?id)\b/i,
    lookAt: 'The client identifier, as the tool’s end has it entered.',
  },
  {
    about: 'issuer',
    pattern: /\b(issuer|iss|platform (is )?unknown)\b/i,
    lookAt: 'The issuer, as the tool’s end has it entered: letter by letter, without a slash at its end.',
  },
  { about: 'redirect', pattern: /\bredirect.?uri\b/i, lookAt: 'The redirect addresses of the registration.' },
  {
    about: 'signature',
    pattern: /\b(signature|hmac|base ?string|secret|jwks|key ?set|kid|no applicable key)\b/i,
    lookAt: 'The shared secret or keyset at both ends.',
  },
  {
    about: 'key',
    pattern: /\b(consumer key|unknown key|key (is )?(not known|unknown|invalid))\b/i,
    lookAt: 'The consumer key at both ends, letter by letter.',
  },
  {
    about: 'roles',
    pattern: /\b(roles?|not (permitted|allowed|authori[sz]ed)|instructors? only|test (user|learner)s?)\b/i,
    lookAt: 'The roles that were sent, and whether the tool takes test learners.',
  },
  {
    about: 'person',
    pattern: /\b(user.?id|e-?mail|name (is )?(missing|required))\b/i,
    lookAt: 'What the registration lets the tool know of people.',
  },
  {
    about: 'link',
    pattern: /\b(resource.?link|not found|no longer|unknown (resource|assignment|content))\b/i,
    lookAt: 'The content that the link leads to, at the tool’s end.',
  },
]

/** Reads an error page or a returned message. @returns undefined when the words say nothing that is known */
export function readObjection(words: string): Objection | undefined {
  for (const { about, pattern, lookAt } of SIGNS) {
    const found = pattern.exec(words)
    if (found) return { about, quoted: sentenceAround(words, found.index), lookAt }
  }
  return undefined
}

function sentenceAround(text: string, at: number): string {
  const from = Math.max(text.lastIndexOf('. ', at) + 1, at - 120, 0)
  const end = text.indexOf('. ', at)
  return text.slice(from, Math.min(end < 0 ? text.length : end + 1, at + 160)).trim()
}

/** What of a launch of ours an objection can be set against. */
export interface SentFacts {
  version: '1.1' | '1.3'
  /** Seconds that our clock is ahead of the tool's, by its own answer; undefined when it does not say. */
  clockAheadSeconds?: number | undefined
  as: 'instructor' | 'learner'
  isTestLearner: boolean
  sentAt: Date
  /** By the names that people at both ends use for them. */
  values: Partial<Record<'key' | 'deployment' | 'audience' | 'issuer' | 'redirect' | 'roles' | 'link', string>>
}

/** An objection beside what was sent. */
export interface Objected extends Pick<Objection, 'about' | 'quoted'>, Pick<SentFacts, 'as' | 'isTestLearner'> {
  /** When the launch was sent, as ISO 8601, and how far ahead of the tool's our clock was. */
  sentAt: string
  clockAheadSeconds: number | null
  /** What was sent of what it objects to. */
  value: string | null
}

/**
 * Sets what a tool says it objects to against what was sent. A tool's words are no proof, so it is told as a hint, with the value that was sent beside it.
 * @returns undefined when its words say nothing that is known
 */
export function objectionIn(words: string, sent: SentFacts): Objected | undefined {
  const objection = readObjection(words)
  if (!objection) return undefined
  const { about, quoted } = objection
  const { as, isTestLearner, sentAt, clockAheadSeconds = null, values } = sent
  const value = entryOf<string | undefined>(values, about) ?? null
  return { about, quoted, as, isTestLearner, sentAt: sentAt.toISOString(), clockAheadSeconds, value }
}

export function objectionWords(objected: Objected): { statement: string; remedy: string } {
  const { about, quoted } = objected
  const said = `The tool’s words point to ${NAMES[about]}: “${quoted}”`
  const value = about === 'clock' ? clockOf(objected) : about === 'person' ? undefined : valueOf(objected)
  return { statement: value ? `${said}. ${value}` : said, remedy: SIGNS.find((one) => one.about === about)!.lookAt }
}

/** Under which public addresses a tool may know us. */
export interface OwnAddresses {
  now: string
  /** Under which we were run before. */
  earlier: readonly string[]
}

/**
 * What a tool says that names an address under which we were run before, as a whole address or its host: it holds what it was told then.
 * @returns undefined when it names none
 */
export function earlierAddress(
  words: string,
  { now, earlier }: OwnAddresses,
): { named: string; now: string } | undefined {
  const ownHost = new URL(now).host
  const named = earlier.find((address) => {
    const { host } = new URL(address)
    return words.includes(address) || (host !== ownHost && words.includes(host))
  })
  return named === undefined ? undefined : { named, now }
}

const NAMES: Record<Objection['about'], string> = {
  signature: 'the signature',
  key: 'the key',
  clock: 'the clocks',
  nonce: 'the nonce',
  state: 'a login that was lost on its way (state or cookies)',
  deployment: 'the deployment',
  audience: 'the audience, our client identifier',
  issuer: 'the issuer',
  redirect: 'the redirect address',
  person: 'what is known of the person',
  roles: 'the role',
  link: 'the content',
}

function clockOf({ sentAt, clockAheadSeconds }: Objected): string {
  const at = `It was sent at ${sentAt.slice(0, 19)}Z`
  if (clockAheadSeconds === null) return `${at}.`
  if (Math.abs(clockAheadSeconds) < 5) return `${at}; by the tool’s own answer its clock agrees with ours.`
  return `${at}; by the tool’s own answer its clock is ${Math.abs(clockAheadSeconds)} seconds ${clockAheadSeconds > 0 ? 'behind' : 'ahead of'} ours.`
}

function valueOf({ about, value, isTestLearner, as }: Objected): string | undefined {
  if (about === 'roles')
    return isTestLearner
      ? 'It was launched as the test learner, by the role of a learner.'
      : `It was launched as ${as === 'instructor' ? 'an instructor' : 'a learner'}${value ? ` (${value})` : ''}.`
  return value === null ? undefined : `We sent “${value}”.`
}
