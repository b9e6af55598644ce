export const NOW = new Date('2026-11-23T12:00:00Z')
export const KEY = 'skerrow-knots'
export const SECRET = 'halyard-3-bowline-7-fid'
export const LAUNCH = 'https://knotwork.example/launch'
const PAIR = { consumerKey: KEY, sharedSecret: SECRET }
const ALL = { ...PAIR, launchUrl: LAUNCH }

export const METADATA = {
  client_name: 'Sextant Bench',
  application_type: 'web',
  grant_types: ['implicit', 'client_credentials'],
  response_types: ['id_token'],
  token_endpoint_auth_method: 'private_key_jwt',
  initiate_login_uri: 'https://sextant.example/login',
  redirect_uris: ['https://sextant.example/launch'],
  jwks_uri: 'https://sextant.example/keyset',
  scope: 'openid https://purl.imsglobal.org/spec/lti-ags/scope/score',
  'https://purl.imsglobal.org/spec/lti-tool-configuration': {
    domain: 'sextant.example',
    target_link_uri: 'https://sextant.example/start',
    messages: [{ type: 'LtiResourceLinkRequest', placements: ['ContentArea'] }],
  },
}
const XML = (inside: string, prefix = 'blti') => `<?xml version="1.0" encoding="UTF-8"?>
<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:${prefix}="http://www.imsglobal.org/xsd/imsbasiclti_v1p0"
 xmlns:lticm="http://www.imsglobal.org/xsd/imslticm_v1p0" xmlns:lticp="http://www.imsglobal.org/xsd/imslticp_v1p0">${inside}</cartridge_basiclti_link>`

interface Case {
  given: string
  reads: Record<string, string>
  says?: string[]
  missing?: string[]
}

/** Inputs as vendors hand them over: what is read, what is remarked (nothing unless named), what is missing. */
export const CASES: Record<string, Case> = {
  'labels with colons': {
    given: `Consumer key: ${KEY}\nShared secret: ${SECRET}\nLaunch URL: ${LAUNCH}`,
    reads: ALL,
    missing: ['name'],
  },
  'labels with equals signs': { given: `key=${KEY}\nsecret=${SECRET}\nurl=${LAUNCH}`, reads: ALL, missing: ['name'] },
  'another order': {
    given: `Secret: ${SECRET}\nURL: ${LAUNCH}\nKey: ${KEY}\nTool: Knotwork Drills`,
    reads: { ...ALL, name: 'Knotwork Drills' },
  },
  'capitals and underscores': {
    given: `CONSUMER_KEY: ${KEY}\nSHARED_SECRET: ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'camel case': {
    given: `consumerKey: ${KEY}\nsharedSecret: ${SECRET}\nlaunchUrl: ${LAUNCH}`,
    reads: ALL,
    missing: ['name'],
  },
  'environment variables': { given: `LTI_KEY=${KEY}\nLTI_SECRET=${SECRET}`, reads: PAIR, missing: ['name'] },
  'dashes as separators': { given: `Consumer key – ${KEY}\nShared secret — ${SECRET}`, reads: PAIR, missing: ['name'] },
  'arrows as separators': {
    given: `Consumer key -> ${KEY}\nShared secret => ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'tabs, as copied out of a table': {
    given: `Consumer key\t${KEY}\nShared secret\t${SECRET}\nLaunch URL\t${LAUNCH}`,
    reads: ALL,
    missing: ['name'],
  },
  'several blanks as columns': {
    given: `Consumer key      ${KEY}\nShared secret     ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'a table of pipes': {
    given: `| Consumer key | ${KEY} |\n|---|---|\n| Shared secret | ${SECRET} |`,
    reads: PAIR,
    missing: ['name'],
  },
  'labels above their values': {
    given: `Consumer key\n${KEY}\n\nShared secret\n${SECRET}\n\nLaunch URL\n${LAUNCH}`,
    reads: ALL,
    missing: ['name'],
  },
  'labels with a colon above their values': {
    given: `Consumer key:\n  ${KEY}\nShared secret:\n  ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
    says: ['hidden_characters'],
  },
  bullets: {
    given: `• Consumer key: ${KEY}\n• Shared secret: ${SECRET}\n- Launch address: ${LAUNCH}`,
    reads: ALL,
    missing: ['name'],
  },
  numbers: { given: `1. Key: ${KEY}\n2. Secret: ${SECRET}`, reads: PAIR, missing: ['name'] },
  'marks of emphasis': {
    given: `**Consumer key:** ${KEY}\n**Shared secret:** ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'a quoted mail': { given: `> Consumer key: ${KEY}\n> Shared secret: ${SECRET}`, reads: PAIR, missing: ['name'] },
  'a sentence': {
    given: `Your consumer key is ${KEY} and the shared secret is ${SECRET}.`,
    reads: PAIR,
    missing: ['name'],
  },
  'two labels on one line': { given: `Key: ${KEY}  Secret: ${SECRET}`, reads: PAIR, missing: ['name'] },
  'a subject names the tool': {
    given: `Subject: LTI credentials for Knotwork Drills\n\nKey: ${KEY}\nSecret: ${SECRET}`,
    reads: { ...PAIR, name: 'Knotwork Drills' },
  },
  'a phrase names the tool': {
    given: `Dear Ingrid,\nhere are the credentials for Knotwork Drills.\nKey: ${KEY}\nSecret: ${SECRET}\nKind regards`,
    reads: { ...PAIR, name: 'Knotwork Drills' },
  },
  'a mail of support': {
    given: `Hello Ingrid,\n\nLTI is now enabled for the Skerrow Maritime Academy.\n\nTool name: Knotwork Drills\nConsumer key: ${KEY}\nShared secret: ${SECRET}\nLaunch URL: ${LAUNCH}\n\nBest wishes,\nthe team\n--\nOpen Mon-Fri: 9:00 to 17:00`,
    reads: { ...ALL, name: 'Knotwork Drills' },
  },
  'two bare lines': { given: `${KEY}\n${SECRET}\n`, reads: PAIR, missing: ['name'] },
  'labels in brackets': {
    given: `Consumer key (client key): ${KEY}\nShared secret (password): ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'a comment behind the value': {
    given: `Consumer key: ${KEY} (for all courses)\nShared secret: ${SECRET} <- keep this to yourself`,
    reads: PAIR,
    missing: ['name'],
  },
  'line ends of another system': { given: `Key: ${KEY}\r\nSecret: ${SECRET}\r\n`, reads: PAIR, missing: ['name'] },
  'markup of a page': {
    given: `<b>Consumer key</b>: ${KEY}\n<b>Shared secret</b>: ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'custom parameters': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nCustom parameters: drill=bends, level=$Person.name.full`,
    reads: { ...PAIR, customParameters: 'drill=bends, level=$Person.name.full' },
    missing: ['name'],
  },
  'an address in a sentence': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nSend people to ${LAUNCH}, please.`,
    reads: ALL,
    missing: ['name'],
  },
  'an address in brackets': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL (${LAUNCH})`,
    reads: ALL,
    missing: ['name'],
  },

  'a blank at the end of the secret': {
    given: `Consumer key: ${KEY}\nShared secret: ${SECRET}  `,
    reads: PAIR,
    says: ['hidden_characters'],
    missing: ['name'],
  },
  'a zero-width blank in the key': {
    given: `Consumer key: skerrow\u200b-knots\nShared secret: ${SECRET}`,
    reads: PAIR,
    says: ['hidden_characters'],
    missing: ['name'],
  },
  'a non-breaking blank': {
    given: `Consumer key: \u00a0${KEY}\u00a0\nShared secret: ${SECRET}`,
    reads: PAIR,
    says: ['hidden_characters'],
    missing: ['name'],
  },
  quotes: {
    given: `Consumer key: "${KEY}"\nShared secret: “${SECRET}”`,
    reads: PAIR,
    says: ['hidden_characters'],
    missing: ['name'],
  },
  'a byte order mark': {
    given: `\ufeffConsumer key: ${KEY}\nShared secret: ${SECRET}`,
    reads: PAIR,
    missing: ['name'],
  },
  'a soft hyphen in the secret': {
    given: `Key: ${KEY}\nSecret: halyard-3-\u00adbowline-7-fid`,
    reads: PAIR,
    says: ['hidden_characters'],
    missing: ['name'],
  },
  'key and secret swapped': {
    given: `Consumer key: 9fK2xQ7vLm4Tz8RbW1cN6yHd\nShared secret: skerrow-academy`,
    reads: { consumerKey: '9fK2xQ7vLm4Tz8RbW1cN6yHd', sharedSecret: 'skerrow-academy' },
    says: ['swapped'],
    missing: ['name'],
  },
  'the key copied twice': {
    given: `Key: ${KEY}\nSecret: ${KEY}`,
    reads: { consumerKey: KEY, sharedSecret: KEY },
    says: ['key_is_secret'],
    missing: ['name'],
  },
  'a placeholder': {
    given: `Key: ${KEY}\nSecret: <your secret here>`,
    reads: { consumerKey: KEY, sharedSecret: 'your secret here' },
    says: ['blank_inside', 'hidden_characters', 'placeholder'],
    missing: ['name'],
  },
  'a masked secret': {
    given: `Key: ${KEY}\nSecret: ••••••••••`,
    reads: { consumerKey: KEY, sharedSecret: '••••••••••' },
    says: ['placeholder'],
    missing: ['name'],
  },
  'a secret cut short': {
    given: `Key: ${KEY}\nSecret: halyard-3-bow…`,
    reads: { consumerKey: KEY, sharedSecret: 'halyard-3-bow…' },
    says: ['cut_short'],
    missing: ['name'],
  },
  'a short secret': {
    given: `Key: ${KEY}\nSecret: abc7`,
    reads: { consumerKey: KEY, sharedSecret: 'abc7' },
    says: ['too_short'],
    missing: ['name'],
  },
  'a plain http address': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: http://knotwork.example/launch`,
    reads: { ...PAIR, launchUrl: 'http://knotwork.example/launch' },
    says: ['not_secure'],
    missing: ['name'],
  },
  'a private address': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: https://192.168.4.7/launch`,
    reads: { ...PAIR, launchUrl: 'https://192.168.4.7/launch' },
    says: ['private_address'],
    missing: ['name'],
  },
  'a host without a domain': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: https://knots/launch`,
    reads: { ...PAIR, launchUrl: 'https://knots/launch' },
    says: ['private_address'],
    missing: ['name'],
  },
  'an example address': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: https://your-domain.knotwork.example/launch`,
    reads: { ...PAIR, launchUrl: 'https://your-domain.knotwork.example/launch' },
    says: ['placeholder'],
    missing: ['name'],
  },
  'an address that has ended': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: ${LAUNCH}?expires=1700000000`,
    reads: { ...PAIR, launchUrl: `${LAUNCH}?expires=1700000000` },
    says: ['expired'],
    missing: ['name'],
  },
  'a date that is over': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nThese are valid until 30 June 2025.`,
    reads: PAIR,
    says: ['expired'],
    missing: ['name'],
  },
  'a date to come': { given: `Key: ${KEY}\nSecret: ${SECRET}\nExpires: 2027-06-30`, reads: PAIR, missing: ['name'] },
  'no scheme before the address': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: knotwork.example/launch`,
    reads: { ...PAIR, launchUrl: 'knotwork.example/launch' },
    says: ['address_unusable'],
    missing: ['name'],
  },
  'two launch addresses': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: ${LAUNCH}\nLaunch URL: ${LAUNCH}/2`,
    reads: ALL,
    says: ['contradiction'],
    missing: ['name'],
  },
  'two pairs of keys': {
    given: `For graded assignments:\nKey: grade-key\nSecret: ${SECRET}\n\nFor content links only, no grades:\nKey: link-key\nSecret: marlin-5-spike-2-eye`,
    reads: { consumerKey: 'grade-key', sharedSecret: SECRET },
    says: ['two_pairs'],
    missing: ['name'],
  },
  'keys with what they are for in their labels': {
    given: `Key (LMS only): ${KEY}\nKey for direct login: other-key\nSecret: ${SECRET}`,
    reads: PAIR,
    says: ['two_pairs'],
    missing: ['name'],
  },
  'a German mail': {
    given: `Sehr geehrte Frau Valesdottir,\n\nBezeichnung: Knotwork Drills\nSchlüssel: ${KEY}\nGemeinsames Geheimnis: ${SECRET}\nStartadresse: ${LAUNCH}\nAnsprechpartner: post@knotwork.example`,
    reads: { ...ALL, name: 'Knotwork Drills', contact: 'post@knotwork.example' },
  },
  'a German mail about LTI 1.3, written without umlauts': {
    given: `Werkzeug: Sextant Bench\nStartadresse: https://sextant.example/start\nAnmeldeadresse: https://sextant.example/login\nWeiterleitungsadressen: https://sextant.example/launch\nOeffentliche Schluessel-Adresse: https://sextant.example/keyset`,
    reads: {
      name: 'Sextant Bench',
      launchUrl: 'https://sextant.example/start',
      initiationUrl: 'https://sextant.example/login',
      redirectUri: 'https://sextant.example/launch',
      keysetUrl: 'https://sextant.example/keyset',
    },
    says: ['usual_scopes'],
  },
  'a German mail that lacks the secret': {
    given: `Kundenschlüssel: ${KEY}\nKonfigurationsdatei folgt.`,
    reads: { consumerKey: KEY },
    missing: ['name', 'sharedSecret'],
  },
  'a picker beside the launch': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: ${LAUNCH}\nContent picker: https://knotwork.example/pick`,
    reads: { ...ALL, pickerUrl: 'https://knotwork.example/pick' },
    missing: ['name'],
  },
  'deep linking by its own name': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nDeep Linking URL: https://knotwork.example/pick`,
    reads: { ...PAIR, pickerUrl: 'https://knotwork.example/pick' },
    missing: ['name'],
  },
  'the key alone': { given: `Consumer key: ${KEY}`, reads: { consumerKey: KEY }, missing: ['name', 'sharedSecret'] },

  'addresses of LTI 1.3': {
    given: `Tool name: Sextant Bench\nTarget link URI: https://sextant.example/start\nOIDC login URL: https://sextant.example/login\nRedirect URI: https://sextant.example/launch\nPublic JWK URL: https://sextant.example/keyset`,
    reads: {
      name: 'Sextant Bench',
      launchUrl: 'https://sextant.example/start',
      initiationUrl: 'https://sextant.example/login',
      redirectUri: 'https://sextant.example/launch',
      keysetUrl: 'https://sextant.example/keyset',
    },
    says: ['usual_scopes'],
  },
  'the same in other words': {
    given: `Name: Sextant Bench\nLaunch URL: https://sextant.example/start\nInitiate login URL: https://sextant.example/login\nCallback URLs: https://sextant.example/launch\nKeyset URL: https://sextant.example/keyset`,
    reads: {
      name: 'Sextant Bench',
      launchUrl: 'https://sextant.example/start',
      initiationUrl: 'https://sextant.example/login',
      redirectUri: 'https://sextant.example/launch',
      keysetUrl: 'https://sextant.example/keyset',
    },
    says: ['usual_scopes'],
  },
  'LTI 1.3 without a keyset': {
    given: `Login initiation URL: https://sextant.example/login\nTarget link URI: https://sextant.example/start`,
    reads: { initiationUrl: 'https://sextant.example/login', launchUrl: 'https://sextant.example/start' },
    says: ['usual_scopes'],
    missing: ['name', 'redirectUri', 'keysetUrl'],
  },
  'both versions in one mail': {
    given: `Key: ${KEY}\nSecret: ${SECRET}\nLogin URL: https://sextant.example/login`,
    reads: { ...PAIR, initiationUrl: 'https://sextant.example/login' },
    says: ['both_versions', 'usual_scopes'],
    missing: ['name', 'launchUrl', 'redirectUri', 'keysetUrl'],
  },
  'bare addresses go by their paths': {
    given: `https://sextant.example/lti/login\nhttps://sextant.example/.well-known/jwks.json\nhttps://sextant.example/lti/callback`,
    reads: {
      initiationUrl: 'https://sextant.example/lti/login',
      keysetUrl: 'https://sextant.example/.well-known/jwks.json',
      redirectUri: 'https://sextant.example/lti/callback',
    },
    says: ['usual_scopes'],
    missing: ['name', 'launchUrl'],
  },
  'a registration address, labelled': {
    given: 'Dynamic registration URL: https://sextant.example/register',
    reads: { registrationUrl: 'https://sextant.example/register' },
  },
  'a configuration address, labelled': {
    given: 'XML config URL: https://knotwork.example/config.xml',
    reads: { configurationUrl: 'https://knotwork.example/config.xml' },
  },
  'an address alone: registration': {
    given: 'https://sextant.example/lti/register?tenant=7',
    reads: { registrationUrl: 'https://sextant.example/lti/register?tenant=7' },
  },
  'an address alone: configuration': {
    given: ' <https://knotwork.example/config.xml> ',
    reads: { configurationUrl: 'https://knotwork.example/config.xml' },
  },
  'an address alone: launch': { given: LAUNCH, reads: { launchUrl: LAUNCH } },

  'LTI 1.3 metadata': {
    given: JSON.stringify(METADATA),
    reads: {
      name: 'Sextant Bench',
      launchUrl: 'https://sextant.example/start',
      initiationUrl: 'https://sextant.example/login',
      redirectUri: 'https://sextant.example/launch',
      keysetUrl: 'https://sextant.example/keyset',
    },
  },
  'JSON of any names': {
    given: JSON.stringify({
      lti: { consumer_key: KEY, shared_secret: SECRET, launch_url: LAUNCH, title: 'Knotwork Drills' },
    }),
    reads: { ...ALL, name: 'Knotwork Drills' },
  },
  'JSON in which a name stands twice': {
    given: `{"consumer_key":"a","consumer_key":"b"}`,
    reads: {},
    says: ['unreadable'],
  },
  'broken JSON': { given: `{"consumer_key":`, reads: {}, says: ['unreadable'] },
  'metadata of wrong types': {
    given: JSON.stringify({ ...METADATA, redirect_uris: 'https://x.example', client_name: 7 }),
    reads: {
      initiationUrl: 'https://sextant.example/login',
      redirectUri: 'https://x.example',
      keysetUrl: 'https://sextant.example/keyset',
      launchUrl: 'https://sextant.example/start',
    },
    says: ['unreadable'],
    missing: ['name'],
  },

  'configuration XML': {
    given: XML(
      `<blti:title>Knotwork Drills</blti:title><blti:launch_url>http://knotwork.example/launch</blti:launch_url><blti:secure_launch_url>${LAUNCH}</blti:secure_launch_url>`,
    ),
    reads: { name: 'Knotwork Drills', launchUrl: LAUNCH },
    missing: ['consumerKey', 'sharedSecret'],
  },
  'XML of other prefixes': {
    given: XML(`<b:title>Knotwork Drills</b:title><b:launch_url>${LAUNCH}</b:launch_url>`, 'b'),
    reads: { name: 'Knotwork Drills', launchUrl: LAUNCH },
    missing: ['consumerKey', 'sharedSecret'],
  },
  'XML behind a byte order mark': {
    given: `\ufeff${XML('<blti:title>K</blti:title>')}`,
    reads: { name: 'K' },
    missing: ['consumerKey', 'sharedSecret'],
  },
  'XML with extensions of others': {
    given: XML(
      `<blti:title>K</blti:title><blti:extensions platform="elsewhere.example"><lticm:property name="x">1</lticm:property></blti:extensions>`,
    ),
    reads: { name: 'K' },
    says: ['unread_extensions'],
    missing: ['consumerKey', 'sharedSecret'],
  },
  'XML with entities': {
    given: `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>`,
    reads: {},
    says: ['unreadable'],
  },
  'XML of another kind': { given: '<rss version="2.0"><title>News</title></rss>', reads: {}, says: ['unreadable'] },
  nothing: { given: ' \n\t ', reads: {}, says: ['nothing_recognised'] },
  'talk without values': {
    given: 'Dear Ingrid, we have received your request and will answer soon.',
    reads: {},
    says: ['nothing_recognised'],
  },
}
