import { Problem } from '../result/index.js'
import { plainLine } from '../content/item.js'
import { asObject } from '../intake/json.js'
import { checkLaunchAddress } from '../links/launch-address.js'
import { PLACES, type Place } from '../links/placements.js'
import type { Claims, PublicKey } from './jws.js'
import { readKeyset } from './keyset.js'
import { isScope, MESSAGE_TYPES, SCOPES, type MessageType, type Scope } from './names.js'

const TOOL_CONFIGURATION = 'https://purl.imsglobal.org/spec/lti-tool-configuration'

/** One kind of message a tool wants to receive, and where its links may stand. */
export interface ToolMessage {
  type: MessageType
  targetLinkUri: string | null
  label: string | null
  customParameters: Record<string, string>
  places: Place[]
}

/** What a tool says of itself when it registers (Dynamic Registration 1.0 section 3.3), or in a configuration at an address. */
export interface ToolMetadata {
  name: string
  description: string
  initiationUrl: string
  redirectUris: string[]
  keysetUrl: string | null
  /** Keys given in place, for tools without an address for them. */
  keys: PublicKey[]
  targetLinkUri: string
  domain: string
  scopes: Scope[]
  /** Asked for, but unknown here: said, never granted. */
  unknownScopes: string[]
  /** What of a person it would like to see, in the claims' names. */
  claims: string[]
  customParameters: Record<string, string>
  messages: ToolMessage[]
  /** Messages of types that are not spoken here. */
  unknownMessages: string[]
  iconUrl: string | null
  clientUrl: string | null
  policyUrl: string | null
  termsUrl: string | null
  contacts: string[]
}

/** Why metadata is refused; `error` is the word of OpenID Connect Dynamic Client Registration section 3.3. */
export class MetadataProblem extends Problem<'metadata.invalid'> {
  readonly error: 'invalid_client_metadata' | 'invalid_redirect_uri'

  constructor(readonly faults: readonly { path: string; message: string }[]) {
    super(
      'metadata.invalid',
      faults
        .map((fault) => `${fault.path} ${fault.message}`)
        .join('; ')
        .slice(0, 500),
    )
    this.error = faults.every((fault) => fault.path.startsWith('redirect_uris'))
      ? 'invalid_redirect_uri'
      : 'invalid_client_metadata'
  }
}

const STANDARD_PLACES: Record<string, Place> = {
  ContentArea: 'unit_item',
  RichTextEditor: 'running_text',
  ...Object.fromEntries(PLACES.map((place) => [`urn:bathyscribe:placement:${place}`, place])),
}
const MAX_LIST = 20
const MAX_PARAMETERS = 50

/** Reads client metadata, all faults at once. `forms` that a registration must carry are checked only with `strict`. */
export function readToolMetadata(value: unknown, options: { strict: boolean }): ToolMetadata | MetadataProblem {
  const reader = new Reader(asObject(value) ?? {})
  if (!asObject(value)) reader.fault('', 'must be an object')
  const lti = new Reader(asObject(reader.raw(TOOL_CONFIGURATION)) ?? {}, 'lti-tool-configuration.', reader.faults)
  if (!asObject(reader.raw(TOOL_CONFIGURATION))) reader.fault('lti-tool-configuration', 'is missing')
  if (options.strict) checkForms(reader)

  const keyset = asObject(reader.raw('jwks')) ? readKeyset(reader.raw('jwks')) : []
  if (keyset instanceof Problem) reader.fault('jwks', `cannot be used: ${keyset.detail}`)
  const keysetUrl = reader.address('jwks_uri', false)
  if (!keysetUrl && !(keyset instanceof Problem) && keyset.length === 0)
    reader.fault('jwks_uri', 'is missing, and no keys are given')

  const redirectUris = reader.addresses('redirect_uris')
  const asked = (reader.text('scope') ?? '')
    .split(/\s+/)
    .filter((one) => one !== '' && one !== 'openid')
    .slice(0, 50)
  const messages = readMessages(lti)
  const metadata: ToolMetadata = {
    name: reader.line('client_name', true),
    description: lti.text('description')?.slice(0, 2000) ?? '',
    initiationUrl: reader.address('initiate_login_uri', true) ?? '',
    redirectUris,
    keysetUrl,
    keys: keyset instanceof Problem ? [] : keyset,
    targetLinkUri: lti.address('target_link_uri', true) ?? '',
    domain: lti.line('domain', false),
    scopes: asked.filter(isScope),
    unknownScopes: asked.filter((one) => !isScope(one)),
    claims: lti.list('claims').filter((one): one is string => typeof one === 'string'),
    customParameters: lti.parameters('custom_parameters'),
    ...messages,
    iconUrl: reader.address('logo_uri', false),
    clientUrl: reader.address('client_uri', false),
    policyUrl: reader.address('policy_uri', false),
    termsUrl: reader.address('tos_uri', false),
    contacts: reader
      .list('contacts')
      .filter((one): one is string => typeof one === 'string')
      .slice(0, MAX_LIST),
  }
  return reader.faults.length === 0 ? metadata : new MetadataProblem(reader.faults)
}

/** The fixed values that every registration names (Dynamic Registration 1.0 section 3.4). */
function checkForms(reader: Reader): void {
  const has = (name: string, wanted: readonly string[]) => {
    const given = reader.list(name)
    for (const one of wanted) if (!given.includes(one)) reader.fault(name, `must hold ${one}`)
  }
  has('response_types', ['id_token'])
  has('grant_types', ['implicit', 'client_credentials'])
  const method = reader.raw('token_endpoint_auth_method')
  if (method !== 'private_key_jwt') reader.fault('token_endpoint_auth_method', 'must be private_key_jwt')
}

function readMessages(lti: Reader): Pick<ToolMetadata, 'messages' | 'unknownMessages'> {
  const messages: ToolMessage[] = []
  const unknownMessages: string[] = []
  lti
    .list('messages')
    .slice(0, MAX_LIST)
    .forEach((one, i) => {
      const message = new Reader(asObject(one) ?? {}, `${lti.prefix}messages.${i}.`, lti.faults)
      const type = message.line('type', true)
      if (!isMessageType(type)) {
        unknownMessages.push(type.slice(0, 100))
        return
      }
      messages.push({
        type,
        targetLinkUri: message.address('target_link_uri', false),
        label: message.line('label', false) || null,
        customParameters: message.parameters('custom_parameters'),
        places: message.list('placements').flatMap((name) => STANDARD_PLACES[String(name)] ?? []),
      })
    })
  return { messages, unknownMessages }
}

function isMessageType(text: string): text is MessageType {
  return (MESSAGE_TYPES as readonly string[]).includes(text)
}

/** Takes values out of an object, noting what is wrong with them. */
class Reader {
  constructor(
    private readonly object: Record<string, unknown>,
    readonly prefix = '',
    readonly faults: { path: string; message: string }[] = [],
  ) {}

  fault(name: string, message: string): void {
    this.faults.push({ path: `${this.prefix}${name}`, message })
  }
  raw(name: string): unknown {
    return this.object[name]
  }
  text(name: string): string | undefined {
    const value = this.object[name]
    if (value === undefined || value === null) return undefined
    if (typeof value === 'string') return value
    this.fault(name, 'must be text')
    return undefined
  }
  line(name: string, must: boolean): string {
    const given = this.object[name] ?? undefined
    const text = plainLine(this.text(name) ?? '', 120)
    // What is no text at all was found fault with already.
    if (must && text === '' && given === undefined) this.fault(name, 'is missing')
    if (must && text === '' && typeof given === 'string') this.fault(name, 'is empty')
    return text
  }
  address(name: string, must: boolean): string | null {
    const text = this.text(name)
    if (text === undefined) {
      if (must) this.fault(name, 'is missing')
      return null
    }
    const problem = checkLaunchAddress(text)
    if (problem) this.fault(name, `cannot be used: ${problem.detail}`)
    return text
  }
  addresses(name: string): string[] {
    const given = this.list(name)
    if (given.length === 0 || given.length > MAX_LIST) this.fault(name, `must hold 1 to ${MAX_LIST} addresses`)
    return given.slice(0, MAX_LIST).flatMap((one, i) => {
      if (typeof one === 'string' && !checkLaunchAddress(one)) return [one]
      this.fault(`${name}.${i}`, 'is not an address that can be used')
      return []
    })
  }
  list(name: string): unknown[] {
    const value = this.object[name]
    if (value === undefined || value === null) return []
    if (Array.isArray(value)) return value
    this.fault(name, 'must be a list')
    return []
  }
  parameters(name: string): Record<string, string> {
    const value = this.object[name]
    if (value === undefined || value === null) return {}
    const pairs = Object.entries(asObject(value) ?? {})
    const good = pairs.filter(
      (pair): pair is [string, string] =>
        typeof pair[1] === 'string' && pair[1].length <= 2000 && pair[0].length <= 100,
    )
    if (!asObject(value) || good.length < pairs.length || pairs.length > MAX_PARAMETERS)
      this.fault(name, `must hold at most ${MAX_PARAMETERS} texts by name`)
    return Object.fromEntries(good.slice(0, MAX_PARAMETERS))
  }
}

/** The metadata as it goes back to the tool, with what was given to it (Dynamic Registration 1.0 section 3.6). */
export function writeToolMetadata(
  metadata: ToolMetadata,
  given: {
    clientId: string
    deploymentId: string
    scopes: readonly string[]
    managementUrl?: string
    managementToken?: string
  },
): Claims {
  return {
    client_id: given.clientId,
    ...(given.managementUrl !== undefined && { registration_client_uri: given.managementUrl }),
    ...(given.managementToken !== undefined && { registration_access_token: given.managementToken }),
    application_type: 'web',
    grant_types: ['implicit', 'client_credentials'],
    response_types: ['id_token'],
    token_endpoint_auth_method: 'private_key_jwt',
    client_name: metadata.name,
    initiate_login_uri: metadata.initiationUrl,
    redirect_uris: metadata.redirectUris,
    ...(metadata.keysetUrl ? { jwks_uri: metadata.keysetUrl } : { jwks: { keys: metadata.keys } }),
    scope: given.scopes.join(' '),
    ...(metadata.iconUrl && { logo_uri: metadata.iconUrl }),
    ...(metadata.clientUrl && { client_uri: metadata.clientUrl }),
    ...(metadata.policyUrl && { policy_uri: metadata.policyUrl }),
    ...(metadata.termsUrl && { tos_uri: metadata.termsUrl }),
    ...(metadata.contacts.length > 0 && { contacts: metadata.contacts }),
    [TOOL_CONFIGURATION]: {
      deployment_id: given.deploymentId,
      target_link_uri: metadata.targetLinkUri,
      ...(metadata.domain && { domain: metadata.domain }),
      ...(metadata.description && { description: metadata.description }),
      custom_parameters: metadata.customParameters,
      claims: metadata.claims,
      messages: metadata.messages.map((message) => ({
        type: message.type,
        ...(message.targetLinkUri && { target_link_uri: message.targetLinkUri }),
        ...(message.label && { label: message.label }),
        custom_parameters: message.customParameters,
        placements: message.places.map((place) => nameOfPlace(place)),
      })),
    },
  }
}

function nameOfPlace(place: Place): string {
  return Object.entries(STANDARD_PLACES).find(([, one]) => one === place)![0]
}

/** Our configuration document (Dynamic Registration 1.0 section 3.2; OpenID Connect Discovery section 3). */
export function configurationDocument(facts: {
  issuer: string
  version: string
  variables: readonly string[]
}): Claims {
  const { issuer } = facts
  return {
    issuer,
    authorization_endpoint: `${issuer}/lti/authorize`,
    token_endpoint: `${issuer}/lti/token`,
    token_endpoint_auth_methods_supported: ['private_key_jwt'],
    token_endpoint_auth_signing_alg_values_supported: ['RS256'],
    jwks_uri: `${issuer}/lti/keyset`,
    registration_endpoint: `${issuer}/lti/register`,
    scopes_supported: ['openid', ...Object.keys(SCOPES)],
    response_types_supported: ['id_token'],
    response_modes_supported: ['form_post'],
    grant_types_supported: ['implicit', 'client_credentials'],
    subject_types_supported: ['public'],
    id_token_signing_alg_values_supported: ['RS256'],
    claims_supported: ['sub', 'iss', 'name', 'given_name', 'family_name', 'email', 'locale'],
    'https://purl.imsglobal.org/spec/lti-platform-configuration': {
      product_family_code: 'bathyscribe',
      version: facts.version,
      messages_supported: [
        { type: 'LtiResourceLinkRequest', placements: Object.keys(STANDARD_PLACES) },
        { type: 'LtiDeepLinkingRequest', placements: Object.keys(STANDARD_PLACES) },
        { type: 'LtiSubmissionReviewRequest' },
      ],
      // Named without the sign that marks them in a value (Dynamic Registration 1.0 section 2.1.1).
      variables: facts.variables.map((name) => name.replace(/^\$/, '')),
    },
  }
}
