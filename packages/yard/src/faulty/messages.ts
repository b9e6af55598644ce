import type { SignatureFacts } from '@bathyscribe/core/diagnosis'
import type { Pairs, Sent } from './signer.js'

const OAUTH = (nonce: string): Pairs => [
  ['oauth_consumer_key', 'skerrow-knots'],
  ['oauth_nonce', nonce],
  ['oauth_signature_method', 'HMAC-SHA1'],
  ['oauth_timestamp', '1700000000'],
  ['oauth_version', '1.0'],
]

/** A launch with what makes signing hard: accents, blanks, marks, an empty value, line ends, two of one name. */
const launch = (sharedSecret: string): Sent => ({
  method: 'POST',
  url: 'https://lti.skerrow.example/Tools/Knots%2Fstart?unit=3&group=bow+line',
  fields: [
    ['resource_link_title', "Sheet bend & bowline (it's new!)"],
    ['lis_person_name_full', 'Åsa Ærlig'],
    ['context_label', ''],
    ['custom_Path', '/decks/~upper*'],
    ['custom_note', ' first\r\nsecond <b> '],
    ['custom_item[a]', '1'],
    ['custom_itemA', '2'],
    ['custom_tag', 'z'],
    ['custom_tag', 'a'],
    ['ext_submit', 'Press to continue'],
    ['commit', 'Go'],
    ['lti_message_type', 'basic-lti-launch-request'],
    ...OAUTH('launch-nonce-1'),
    ['oauth_callback', 'about:blank'],
  ],
  consumerKey: 'skerrow-knots',
  sharedSecret,
  hash: 'sha1',
})
/** An outcome: nothing but what is in its header. */
const outcome = (sharedSecret: string): Sent => ({
  method: 'POST',
  url: 'https://lti.skerrow.example/lti/Outcomes',
  fields: [...OAUTH('outcome-nonce-1'), ['oauth_body_hash', 'Lve95gjOVATpfV8EL5X4nxwjKHE=']],
  consumerKey: 'skerrow-knots',
  sharedSecret,
  hash: 'sha1',
})
/** A launch as most are. */
const plain = (sharedSecret: string): Sent => ({
  method: 'POST',
  url: 'https://tools.skerrow.example/launch/unit?unit=12',
  fields: [
    ['resource_link_title', 'Unit 3: Knots under load'],
    ['context_title', 'Rope work (autumn)'],
    ['lis_person_name_full', 'Zoë Brâncuși'],
    ['lis_person_contact_email_primary', 'zoe@skerrow.example'],
    ['launch_presentation_return_url', 'https://us.example/lti/return/abc'],
    ['roles', 'urn:lti:role:ims/lis/Learner'],
    ['custom_chapter', '7'],
    ...OAUTH('plain-nonce-1'),
  ],
  consumerKey: 'skerrow-knots',
  sharedSecret,
  hash: 'sha1',
})

const SECRETS = ['hAlyard-3-bOwline/l+7==', 'Öse&Tau 44 "rope"-llO99-xx']

export const MESSAGES: readonly Sent[] = SECRETS.flatMap((secret) => [launch(secret), outcome(secret), plain(secret)])

/** As one end knows a message of the table that came to it. */
export function factsOf(sent: Sent, signature: string): SignatureFacts {
  return {
    request: { method: sent.method, url: sent.url, parameters: sent.fields.map(([name, value]) => [name, value]) },
    signature,
    signatureMethod: 'HMAC-SHA1',
    held: { label: 'Knotwork Drills', consumerKey: sent.consumerKey, sharedSecret: sent.sharedSecret },
    previous: ['capstan-before-2025'],
    others: [{ label: 'Plotting Table', consumerKey: 'plot', sharedSecret: 'parallel-rules-77' }],
    hosts: ['127.0.0.1:8080', 'localhost'],
  }
}
