import { withoutBracketed } from '../text/index.js'
/** What a registration can be given by its vendor. */
export const FIELDS = [
  'name',
  'consumerKey',
  'sharedSecret',
  'launchUrl',
  'configurationUrl',
  'registrationUrl',
  'clientId',
  'initiationUrl',
  'redirectUri',
  'keysetUrl',
  'publicKey',
  'description',
  'iconUrl',
  'customParameters',
  'contact',
  'pickerUrl',
  'privacy',
  'placement',
] as const
export type Field = (typeof FIELDS)[number]

export const FIELD_WORDS: Record<Field, string> = {
  name: 'name',
  consumerKey: 'consumer key',
  sharedSecret: 'shared secret',
  launchUrl: 'launch address',
  configurationUrl: 'configuration address',
  registrationUrl: 'registration address',
  clientId: 'client ID',
  initiationUrl: 'login initiation address',
  redirectUri: 'redirect address',
  keysetUrl: 'keyset address',
  publicKey: 'public key',
  description: 'description',
  iconUrl: 'icon',
  customParameters: 'custom parameters',
  contact: 'contact',
  pickerUrl: 'picker address',
  privacy: 'what it wants to see of people',
  placement: 'where it wants to show',
}

const ADDRESSES = new Set<Field>([
  'launchUrl',
  'configurationUrl',
  'registrationUrl',
  'initiationUrl',
  'redirectUri',
  'keysetUrl',
  'iconUrl',
  'pickerUrl',
])
export function isAddress(field: Field): boolean {
  return ADDRESSES.has(field)
}

/** Values of one word, that are copied letter by letter. */
export function isToken(field: Field): boolean {
  return field === 'consumerKey' || field === 'sharedSecret' || field === 'clientId'
}

const URL_WORD = '(?:url|uri|link|address|endpoint|adresse?|adressen)s?'

/**
 * How vendors label what they hand over, lower case, blanks for everything that is not a letter or figure. The first that matches the
 * whole label wins, so the more special ones stand first.
 */
const LABELS: readonly (readonly [Field, string])[] = [
  [
    'pickerUrl',
    `(?:lti )?(?:content|deep|link|resource) ?(?:item )?(?:picker|link(?:ing)?|selection|selector|chooser)(?: launch)?(?: ${URL_WORD})?|picker(?: ${URL_WORD})?|inhalts? ?auswahl|(?:inhalts? ?)?auswahl ?${URL_WORD}`,
  ],
  [
    'privacy',
    '(?:lti |tool )?(?:privacy|personal data)(?: it sees| level| settings?| needed| required)?|(?:needs|sees) of (?:people|users|learners)|data shared|identity(?: level)?|datenschutz(?:stufe)?|personenbezogene daten',
  ],
  [
    'placement',
    '(?:tool |supported |default )?placements?|(?:shows?|appears) (?:in|at|under)|where (?:it )?(?:shows|appears)|platzierung(?:en)?|einsatzorte?',
  ],
  [
    'configurationUrl',
    `(?:lti )?(?:xml|json|config(?:uration)?|cartridge|manifest)(?: (?:xml|json|file|document))?(?: ${URL_WORD})?|konfigurations? ?(?:datei|xml|${URL_WORD})`,
  ],
  [
    'registrationUrl',
    `(?:lti )?(?:dynamic |automatic |auto |tool )?(?:client )?registration(?: initiation)? ${URL_WORD}|(?:dynamic|automatic) registration|registrierungs? ?${URL_WORD}`,
  ],
  [
    'keysetUrl',
    `(?:tool )?(?:public )?(?:jwks?|jwk set|json web key set|key ?set)(?: ${URL_WORD})?|(?:tool )?public (?:jwk|keys?)(?: set)? ${URL_WORD}|(?:oe?ffentliche )?schlu(?:e)?ssel(?:satz)? ?${URL_WORD}`,
  ],
  ['publicKey', '(?:tool )?(?:rsa )?public (?:jwk|key)(?: pem)?'],
  [
    'initiationUrl',
    `(?:tool )?(?:oidc |openid(?: connect)? |third party |3rd party )*(?:initiate|initiation|initial)? ?log ?in(?: initiation| initiate| init| request)?(?: ${URL_WORD})?|(?:oidc|openid(?: connect)?)(?: initiation)? ${URL_WORD}|initiat(?:e|ion) (?:log ?in )?${URL_WORD}|(?:anmelde|initiierungs|login) ?${URL_WORD}`,
  ],
  [
    'redirectUri',
    `(?:tool )?(?:allowed |authorized |valid )?(?:redirect(?:ion)?|call ?back)s?(?: ${URL_WORD})?|(?:erlaubte )?(?:weiterleitungs|umleitungs|ruckkehr) ?${URL_WORD}`,
  ],
  ['iconUrl', `(?:tool )?(?:secure )?(?:icon|logo)(?: ${URL_WORD})?`],
  [
    'launchUrl',
    `(?:lti )?(?:1 1 )?(?:secure )?(?:tool |provider |base )?(?:launch|target link|target)(?: point)?(?: ${URL_WORD})?|(?:lti |tool |provider )+(?:launch )?${URL_WORD}|(?:start|aufruf) ?${URL_WORD}|${URL_WORD}`,
  ],
  [
    'sharedSecret',
    '(?:your |the |our )?(?:lti |oauth )?(?:consumer |shared |client |api )?(?:secret|password)(?: key)?(?: value)?|secret key|(?:gemeinsames |geteiltes |ihr |das )?(?:geheimnis|kennwort|passwort|client geheimnis)(?: des (?:tools|werkzeugs))?|geheimer schlu(?:e)?ssel',
  ],
  ['clientId', '(?:your |the |our )?(?:lti |oauth |oidc )?(?:client|application) id(?:entifier)?'],
  [
    'consumerKey',
    '(?:your |the |our )?(?:lti |oauth )?(?:tool )?(?:consumer |client |customer |access |api |integration )?(?:key|consumer)(?: id| name| value)?|consumer id|(?:ihr |der )?(?:zugriffs|zugangs|kunden|verbraucher|consumer|client)? ?schlu(?:e)?ssel',
  ],
  [
    'customParameters',
    '(?:additional |extra )?(?:custom )(?:launch )?(?:parameters?|fields?|params?|variables?|properties)',
  ],
  [
    'contact',
    '(?:technical |support )?(?:contact|support|e ?mail)(?: address| mail| email)?|kontakt|ansprechpartner(?:in)?',
  ],
  ['description', '(?:tool |short )?description|(?:kurz)?beschreibung'],
  [
    'name',
    '(?:tool |app |application |product |integration |display )?(?:name|title)|tool|product|application|app|integration|bezeichnung|werkzeug|titel',
  ],
]
const WHOLE = LABELS.map(([field, pattern]) => [field, new RegExp(`^(?:${pattern})$`)] as const)

/** The field that a label means; undefined when it is none of ours. */
export function fieldOf(label: string): Field | undefined {
  const plain = normalise(label)
  if (plain === '' || plain.length > 60) return undefined
  const field = wholly(plain)
  if (field) return field
  // “Key for direct login” is a key: what it is for stands behind it.
  const at = plain.search(/ (?:for|fur|fuer) /)
  const before = at > 0 ? wholly(plain.slice(0, at)) : undefined
  return before && isToken(before) ? before : undefined
}

function wholly(plain: string): Field | undefined {
  return WHOLE.find(([, pattern]) => pattern.test(plain))?.[0]
}

/** What a label says its value is for, in brackets or behind “for”; empty where it says nothing. */
export function purposeIn(label: string): string {
  const [open, close] = [label.indexOf('('), label.lastIndexOf(')')]
  if (open >= 0 && close > open) return label.slice(open + 1, close).trim()
  const at = label.search(/\s(?:for|für|fuer)\s/i)
  return at < 0 ? '' : label.slice(at).trim()
}

function normalise(label: string): string {
  const plain = label.normalize('NFKD').replace(/\p{M}+/gu, '')
  return withoutBracketed(plain.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase(), '(', ')')
    .replace(/ß/g, 'ss')
    .replace(/[^a-z0-9]+/g, ' ')
    .trim()
}

/** Labels that are looked for inside a sentence: only the unmistakable ones. */
export const IN_PROSE =
  /\b(?:(?:lti |oauth )?(?:consumer|client|customer)[ _-]?key|(?:shared|consumer|client|oauth)[ _-]?secret|client[ _-]?id|(?:lti |tool )?launch[ _-]?(?:url|address|link)|secret|key)\b/gi

/** What a bare address is, going by its path. */
export function fieldOfAddress(address: string): Field | undefined {
  const url = URL.canParse(address) ? new URL(address) : undefined
  if (!url) return undefined
  const path = `${url.pathname}${url.search}`.toLowerCase()
  if (/jwks?|key-?set|\/keys(\.json)?$/.test(path)) return 'keysetUrl'
  if (/regist(er|ration)|\/enrol/.test(path)) return 'registrationUrl'
  if (/\.xml($|\?)|\.json($|\?)|config|cartridge|descriptor/.test(path)) return 'configurationUrl'
  if (/log-?in|oidc|initiat/.test(path)) return 'initiationUrl'
  if (/redirect|callback/.test(path)) return 'redirectUri'
  if (/\.(png|svg|ico|gif|jpe?g)($|\?)/.test(path)) return 'iconUrl'
  return 'launchUrl'
}
