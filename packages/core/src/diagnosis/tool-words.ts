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

/** Any of some words, in whole: letters of other alphabets are letters too, and `deployment_id` begins with a word. */
const anyOf = (...some: string[]) => new RegExp(`(?<![\\p{L}\\p{N}_])(?:${some.join('|')})(?![\\p{L}\\p{N}])`, 'iu')

/**
 * Words in English, German, Spanish, French and Portuguese, the surest first: what says “not found” of a key is about the key. Stretches between two words are bounded, so that
 * reading is linear.
 */
const SIGNS: readonly { about: Objection['about']; pattern: RegExp; lookAt: string }[] = [
  {
    about: 'nonce',
    pattern: anyOf('nonces?'),
    lookAt: 'The nonce: was the same launch posted twice, or does the tool keep nonces longer than it should?',
  },
  {
    about: 'state',
    pattern: anyOf(
      '(?:invalid|unknown|missing|wrong|bad|lost|no) (?:oauth |oidc |login )?state',
      'state (?:parameter |value |cookie )?(?:is |was |does |did |has )?(?:not|missing|invalid|unknown|lost|mismatch|expired|wrong)',
      '(?:ungültige[rs]?|fehlende[rs]?|unbekannte[rs]?) (?:parameter )?[„“»"]?state',
      'state[”“"»]? (?:no (?:es )?válido|inválido|invalide|inconnu|manquant|fehlt|ungültig)',
      '(?:estado|état) (?:no válido|inválido|de connexion)',
      'cookies?',
      'session (?:was |is |has |has been )?(?:lost|not found|expired|unknown)',
      'sitzung .{0,20}(?:abgelaufen|verloren|nicht gefunden)',
      'sesión .{0,20}(?:caducad[ao]|expirad[ao]|perdida)',
      'session .{0,20}(?:expirée|perdue|introuvable)',
      'sessão .{0,20}(?:expirad[ao]|expirou|perdida)',
      'did not begin this login',
      'login (?:was )?(?:lost|unknown)',
    ),
    lookAt: 'Whether the tool’s cookies live in a frame: try a window.',
  },
  {
    about: 'deployment',
    pattern: anyOf('deployments?', 'bereitstellung', 'implantación', 'despliegue', 'déploiement', 'implantação'),
    lookAt: 'The deployment identifier, as the tool’s end has it entered.',
  },
  {
    about: 'audience',
    pattern: anyOf('audience', 'aud', 'client.?id', 'audiencia', 'audiência', 'empfänger des tokens'),
    lookAt: 'The client identifier, as the tool’s end has it entered.',
  },
  {
    about: 'issuer',
    pattern: anyOf(
      'issuer',
      'iss',
      'platform (?:is |was )?(?:unknown|not found|not registered)',
      'unknown platform',
      'aussteller',
      'unbekannte plattform',
      'emisor',
      'plataforma (?:desconocida|desconhecida)',
      'émetteur',
      'plateforme inconnue',
      'emissor',
    ),
    lookAt: 'The issuer, as entered at the tool’s end: exactly the same, without a slash at its end.',
  },
  { about: 'redirect', pattern: anyOf('redirect.?uri'), lookAt: 'The redirect addresses of the registration.' },
  {
    about: 'clock',
    pattern: anyOf(
      'time ?stamps?',
      'oauth_timestamp',
      'clocks?',
      'too old',
      'not yet valid',
      'in the future',
      '(?:message|launch|request|token|assertion|jwt)s?[^.]{0,20} expired',
      'expired (?:message|launch|request|token|assertion|jwt)s?',
      'zeitstempel',
      '(?:anfrage|nachricht|token)[^.]{0,20} abgelaufen',
      '(?:uhrzeit|systemuhr)',
      'marca de tiempo',
      '(?:mensaje|solicitud|token)[^.]{0,20} (?:caducad[oa]|expirad[oa])',
      'horodatage',
      '(?:message|requête|jeton)[^.]{0,20} expirée?',
      'carimbo de (?:tempo|data)',
      '(?:mensagem|pedido|token)[^.]{0,20} expir(?:ad[oa]|ou)',
    ),
    lookAt: 'The time at both ends; the wire entry shows what was sent.',
  },
  {
    about: 'signature',
    pattern: anyOf(
      'signatures?',
      'signing key',
      'hmac',
      'base ?string',
      'secret',
      'jwks',
      'key ?set',
      'kid',
      'no applicable key',
      'signatur',
      'geheimnis',
      '(?:la |una )?firma (?:no |es |digital )?(?:es |coincide|válida|inválida|incorrecta)',
      'secreto',
      'clé secrète',
      'assinatura',
      'segredo',
    ),
    lookAt: 'The shared secret or keyset at both ends.',
  },
  {
    about: 'key',
    pattern: anyOf(
      'consumer.?key',
      '(?:unknown|invalid|wrong) key',
      'key (?:is |was )?(?:not (?:known|found|registered|valid)|unknown|invalid)',
      '(?:unbekannter|ungültiger|falscher) (?:schlüssel|consumer.?key)',
      'schlüssel .{0,20}(?:unbekannt|ungültig|nicht gefunden)',
      'clave .{0,20}(?:desconocida|no válida|inválida|incorrecta)',
      'clé .{0,20}(?:inconnue|invalide|introuvable)',
      'chave .{0,20}(?:desconhecida|inválida|não encontrada)',
    ),
    lookAt: 'The consumer key at both ends: it must be exactly the same.',
  },
  {
    about: 'roles',
    pattern: anyOf(
      'roles?',
      'not (?:permitted|allowed|authori[sz]ed)',
      '(?:instructors?|teachers?) only',
      'only (?:for )?(?:instructors?|teachers?)',
      'test (?:user|learner)s?',
      'rollen?',
      'nur für (?:lehrende|lehrkräfte|dozenten|dozierende)',
      'nicht berechtigt',
      'rol(?:es)?',
      's[oó]lo (?:para )?(?:instructores|profesores|docentes)',
      'no autorizado',
      'rôles?',
      'réservé aux? (?:enseignants?|formateurs?)',
      'non autorisé',
      '(?:papel|função) d[eo]',
      '(?:apenas|só|somente) (?:para )?(?:instrutores|professores|docentes)',
      'não autorizado',
    ),
    lookAt: 'The roles that were sent, and whether the tool takes test learners.',
  },
  {
    about: 'person',
    pattern: anyOf(
      'user.?id',
      'e-?mail',
      'name (?:is )?(?:missing|required)',
      'user (?:was |is )?(?:not found|unknown)',
      'unknown user',
      '(?:benutzer|person) .{0,20}(?:nicht gefunden|unbekannt)',
      'usuario .{0,20}(?:no encontrado|desconocido)',
      'correo electrónico',
      'utilisateur .{0,20}(?:introuvable|inconnu)',
      'utilisateur (?:introuvable|inconnu)',
      'courriel',
      'usuário .{0,20}(?:não encontrado|desconhecido)',
    ),
    lookAt: 'What the registration lets the tool know of people.',
  },
  {
    about: 'link',
    pattern: anyOf(
      'resource.?link',
      'not found',
      'no longer',
      'unknown (?:resource|assignment|content)',
      'nicht (?:mehr )?(?:gefunden|vorhanden|verfügbar)',
      'no (?:se ha |fue )?encontrad[oa]',
      'ya no (?:existe|está disponible)',
      'introuvable',
      'n’existe plus',
      'não (?:foi )?encontrad[oa]',
      'já não (?:existe|está disponível)',
    ),
    lookAt: 'The content that the link leads to, at the tool’s end.',
  },
]

/** What has expired where no clock is at fault: a certificate or a key is renewed, and no time server helps. */
const EXPIRES_BY_ITSELF = anyOf(
  '(?:certificate|key|licen[cs]e|subscription|account|password|contract)s?[^.]{0,20} expired',
)

/** Reads an error page or a returned message. @returns undefined when the words say nothing that is known */
export function readObjection(words: string): Objection | undefined {
  for (const { about, pattern, lookAt } of SIGNS) {
    const found = pattern.exec(words)
    if (found && !(about === 'clock' && EXPIRES_BY_ITSELF.test(words)))
      return { about, quoted: sentenceAround(words, found.index), lookAt }
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
