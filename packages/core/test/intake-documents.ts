export const NOW = new Date('2026-11-23T12:00:00Z')
export const KEY = 'skerrow-knots'
export const SECRET = 'halyard-3-bowline-7-fid'
export const LAUNCH = 'https://knotwork.example/launch'
export const PAIR = { consumerKey: KEY, sharedSecret: SECRET }
export const ALL = { ...PAIR, launchUrl: LAUNCH }

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

export interface Case {
  given: string
  reads: Record<string, string>
  says?: string[]
  missing?: string[]
}

/** Documents and their addresses, as vendors hand them over. */
export const DOCUMENTS: Record<string, Case> = {
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
