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
    pattern: /\b(state|cookie|session (was )?(lost|not found))\b/i,
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
    pattern: /\b(signature|hmac|base ?string|secret|jwks|keyset|kid)\b/i,
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
