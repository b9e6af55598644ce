import { generateKeyPairSync } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import {
  configurationDocument,
  MetadataProblem,
  readToolMetadata,
  SCOPES,
  writeToolMetadata,
  type ToolMetadata,
} from '@bathyscribe/core/lti13'

const TOOL = 'https://purl.imsglobal.org/spec/lti-tool-configuration'
const SCORE = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'
const jwk = generateKeyPairSync('rsa', { modulusLength: 2048 }).publicKey.export({ format: 'jwk' })
const KEY = { kty: 'RSA', kid: 'k', n: jwk.n, e: jwk.e }

const lti = {
  domain: 'tool.example',
  description: 'Drills in celestial navigation',
  target_link_uri: 'https://tool.example/',
  custom_parameters: { a: '$User.id' },
  claims: ['name', 7, 'email'],
  messages: [
    {
      type: 'LtiDeepLinkingRequest',
      target_link_uri: 'https://tool.example/pick',
      label: ' Pick a drill ',
      custom_parameters: { b: 'c' },
      placements: ['ContentArea', 'RichTextEditor', 'Elsewhere', 7],
    },
    { type: 'LtiResourceLinkRequest' },
    { type: 'LtiMadeUpRequest' },
  ],
}
const good = {
  application_type: 'web',
  client_name: ' Sextant Bench ',
  grant_types: ['implicit', 'client_credentials', 'other'],
  response_types: ['id_token'],
  redirect_uris: ['https://tool.example/launch', 'https://tool.example/other'],
  initiate_login_uri: 'https://tool.example/login',
  jwks_uri: 'https://tool.example/keys',
  token_endpoint_auth_method: 'private_key_jwt',
  scope: `openid  ${SCORE} made-up`,
  logo_uri: 'https://tool.example/logo.png',
  client_uri: 'https://tool.example/about',
  policy_uri: 'https://tool.example/policy',
  tos_uri: 'https://tool.example/terms',
  contacts: ['help@tool.example', 7],
  [TOOL]: lti,
}
const read = (change: Record<string, unknown> = {}, strict = true) =>
  readToolMetadata({ ...good, ...change }, { strict })
const readOfTool = (change: Record<string, unknown>) => read({ [TOOL]: { ...lti, ...change } })
const faultsOf = (found: ToolMetadata | MetadataProblem) =>
  found instanceof MetadataProblem ? found.faults.map(({ path, message }) => `${path} ${message}`) : []
const whole = (): ToolMetadata => {
  const found = read()
  if (found instanceof MetadataProblem) throw new Error(found.detail)
  return found
}

describe('what a tool says of itself', () => {
  it('is read whole', () => {
    expect(read()).toEqual({
      name: 'Sextant Bench',
      description: 'Drills in celestial navigation',
      initiationUrl: 'https://tool.example/login',
      redirectUris: ['https://tool.example/launch', 'https://tool.example/other'],
      keysetUrl: 'https://tool.example/keys',
      keys: [],
      targetLinkUri: 'https://tool.example/',
      domain: 'tool.example',
      scopes: [SCORE],
      unknownScopes: ['made-up'],
      claims: ['name', 'email'],
      customParameters: { a: '$User.id' },
      messages: [
        {
          type: 'LtiDeepLinkingRequest',
          targetLinkUri: 'https://tool.example/pick',
          label: 'Pick a drill',
          customParameters: { b: 'c' },
          places: ['unit_item', 'running_text'],
        },
        { type: 'LtiResourceLinkRequest', targetLinkUri: null, label: null, customParameters: {}, places: [] },
      ],
      unknownMessages: ['LtiMadeUpRequest'],
      iconUrl: 'https://tool.example/logo.png',
      clientUrl: 'https://tool.example/about',
      policyUrl: 'https://tool.example/policy',
      termsUrl: 'https://tool.example/terms',
      contacts: ['help@tool.example'],
    })
  })

  it('may leave out what it need not say', () => {
    const { client_name, grant_types, response_types, redirect_uris, initiate_login_uri, token_endpoint_auth_method } = good // oxfmt-ignore
    const least = { client_name, grant_types, response_types, redirect_uris, initiate_login_uri, token_endpoint_auth_method } // oxfmt-ignore
    const found = readToolMetadata(
      { ...least, jwks: { keys: [KEY] }, [TOOL]: { target_link_uri: 'https://tool.example/' } },
      { strict: true },
    )
    expect(found).toMatchObject({
      description: '',
      keysetUrl: null,
      keys: [KEY],
      domain: '',
      scopes: [],
      unknownScopes: [],
      claims: [],
      customParameters: {},
      messages: [],
      unknownMessages: [],
      iconUrl: null,
      clientUrl: null,
      policyUrl: null,
      termsUrl: null,
      contacts: [],
    })
  })

  it('need not name the fixed forms where it does not register', () => {
    const loose = { grant_types: undefined, response_types: undefined, token_endpoint_auth_method: 'none' }
    expect(faultsOf(read(loose, false))).toEqual([])
    expect(faultsOf(read(loose))).toEqual([
      'response_types must hold id_token',
      'grant_types must hold implicit',
      'grant_types must hold client_credentials',
      'token_endpoint_auth_method must be private_key_jwt',
    ])
  })

  it.each<[Record<string, unknown>, string[]]>([
    [{ client_name: undefined }, ['client_name is missing']],
    [{ client_name: 7 }, ['client_name must be text']],
    [{ client_name: '' }, ['client_name is empty']],
    [{ initiate_login_uri: undefined }, ['initiate_login_uri is missing']],
    [{ initiate_login_uri: 'tool.example' }, ['initiate_login_uri cannot be used: tool.example']],
    [{ redirect_uris: undefined }, ['redirect_uris must hold 1 to 20 addresses']],
    [{ redirect_uris: [] }, ['redirect_uris must hold 1 to 20 addresses']],
    [{ redirect_uris: 'x' }, ['redirect_uris must be a list', 'redirect_uris must hold 1 to 20 addresses']],
    [{ redirect_uris: ['https://a.example', 'x', 7] }, ['redirect_uris.1 is not an address that can be used', 'redirect_uris.2 is not an address that can be used']],
    [{ redirect_uris: Array.from({ length: 21 }, () => 'https://a.example') }, ['redirect_uris must hold 1 to 20 addresses']],
    [{ redirect_uris: Array.from({ length: 20 }, () => 'https://a.example') }, []],
    [{ jwks_uri: undefined }, ['jwks_uri is missing, and no keys are given']],
    [{ jwks_uri: undefined, jwks: { keys: [] } }, ['jwks cannot be used: 0 keys, none of them RSA of 2048 bits with a kid']],
    [{ jwks: { keys: [{ ...KEY, d: 'x' }] } }, ['jwks cannot be used: key “k”']],
    [{ jwks: 7 }, []],
    [{ logo_uri: 'ftp://x.example' }, ['logo_uri cannot be used: ftp:']],
    [{ scope: 7 }, ['scope must be text']],
    [{ contacts: 'x' }, ['contacts must be a list']],
    [{ [TOOL]: undefined }, ['lti-tool-configuration is missing', 'lti-tool-configuration.target_link_uri is missing']],
    [{ [TOOL]: [] }, ['lti-tool-configuration is missing', 'lti-tool-configuration.target_link_uri is missing']],
  ])('%j is told: %j', (change, faults) => expect(faultsOf(read(change))).toEqual(faults)) // oxfmt-ignore

  it.each<[Record<string, unknown>, string[]]>([
    [{ target_link_uri: 'x' }, ['lti-tool-configuration.target_link_uri cannot be used: x']],
    [{ description: 7 }, ['lti-tool-configuration.description must be text']],
    [{ claims: {} }, ['lti-tool-configuration.claims must be a list']],
    [{ messages: 7 }, ['lti-tool-configuration.messages must be a list']],
    [{ messages: [7] }, ['lti-tool-configuration.messages.0.type is missing']],
    [{ messages: [{ type: 'LtiResourceLinkRequest', placements: 7 }] }, ['lti-tool-configuration.messages.0.placements must be a list']],
    [{ custom_parameters: [] }, ['lti-tool-configuration.custom_parameters must hold at most 50 texts by name']],
    [{ custom_parameters: { a: 7 } }, ['lti-tool-configuration.custom_parameters must hold at most 50 texts by name']],
    [{ custom_parameters: { a: 'x'.repeat(2001) } }, ['lti-tool-configuration.custom_parameters must hold at most 50 texts by name']],
    [{ custom_parameters: { a: 'x'.repeat(2000), ['n'.repeat(100)]: '' } }, []],
    [{ custom_parameters: { ['n'.repeat(101)]: 'x' } }, ['lti-tool-configuration.custom_parameters must hold at most 50 texts by name']],
    [{ custom_parameters: Object.fromEntries(Array.from({ length: 51 }, (_, i) => [`n${i}`, ''])) }, ['lti-tool-configuration.custom_parameters must hold at most 50 texts by name']],
    [{ custom_parameters: null, claims: null, description: null, domain: null }, []],
  ])('of the tool %j is told: %j', (change, faults) => expect(faultsOf(readOfTool(change))).toEqual(faults)) // oxfmt-ignore

  it('that is none at all is told so', () => {
    for (const none of [null, 7, 'x', []]) {
      const found = readToolMetadata(none, { strict: false })
      expect(faultsOf(found)[0]).toBe(' must be an object')
    }
  })

  it('is bounded', () => {
    const many = Array.from({ length: 30 }, () => ({ type: 'LtiResourceLinkRequest' }))
    expect(readOfTool({ messages: many })).toHaveProperty('messages.length', 20)
    expect(readOfTool({ description: 'x'.repeat(3000) })).toHaveProperty('description.length', 2000)
    expect(readOfTool({ messages: [{ type: 'x'.repeat(119) }] })).toHaveProperty('unknownMessages', ['x'.repeat(100)])
    expect(read({ contacts: Array.from({ length: 30 }, () => 'x') })).toHaveProperty('contacts.length', 20)
    expect(read({ scope: Array.from({ length: 70 }, (_, i) => `s${i}`).join(' ') })).toHaveProperty('unknownScopes.length', 50) // oxfmt-ignore
    const wrong = read({ redirect_uris: Array.from({ length: 20 }, () => 'x') })
    expect((wrong as MetadataProblem).detail).toHaveLength(500)
  })

  it('is refused by the standard’s word for what is wrong with it', () => {
    expect(read({ redirect_uris: ['x'] })).toMatchObject({ code: 'metadata.invalid', error: 'invalid_redirect_uri' })
    expect(read({ redirect_uris: ['x'], client_name: undefined })).toMatchObject({ error: 'invalid_client_metadata' })
    expect(read({ client_name: undefined })).toMatchObject({
      error: 'invalid_client_metadata',
      detail: 'client_name is missing',
      faults: [{ path: 'client_name', message: 'is missing' }],
    })
    expect((read({ client_name: undefined, scope: 7 }) as MetadataProblem).detail).toBe('scope must be text; client_name is missing') // oxfmt-ignore
  })
})

describe('what goes back to a tool', () => {
  const given = { clientId: 'c', deploymentId: 'd', scopes: [SCORE, 'x'] }
  it('is what it said, with what was given to it', () => {
    expect(writeToolMetadata(whole(), { ...given, managementUrl: 'https://us.example/m', managementToken: 't' })).toEqual({
      client_id: 'c',
      registration_client_uri: 'https://us.example/m',
      registration_access_token: 't',
      application_type: 'web',
      grant_types: ['implicit', 'client_credentials'],
      response_types: ['id_token'],
      token_endpoint_auth_method: 'private_key_jwt',
      client_name: 'Sextant Bench',
      initiate_login_uri: 'https://tool.example/login',
      redirect_uris: ['https://tool.example/launch', 'https://tool.example/other'],
      jwks_uri: 'https://tool.example/keys',
      scope: `${SCORE} x`,
      logo_uri: 'https://tool.example/logo.png',
      client_uri: 'https://tool.example/about',
      policy_uri: 'https://tool.example/policy',
      tos_uri: 'https://tool.example/terms',
      contacts: ['help@tool.example'],
      [TOOL]: {
        deployment_id: 'd',
        target_link_uri: 'https://tool.example/',
        domain: 'tool.example',
        description: 'Drills in celestial navigation',
        custom_parameters: { a: '$User.id' },
        claims: ['name', 'email'],
        messages: [
          {
            type: 'LtiDeepLinkingRequest',
            target_link_uri: 'https://tool.example/pick',
            label: 'Pick a drill',
            custom_parameters: { b: 'c' },
            placements: ['ContentArea', 'RichTextEditor'],
          },
          { type: 'LtiResourceLinkRequest', custom_parameters: {}, placements: [] },
        ],
      },
    }) // oxfmt-ignore
  })
  it('says nothing of what it did not say', () => {
    const bare = { ...whole(), keysetUrl: null, keys: [], iconUrl: null, clientUrl: null, policyUrl: null, termsUrl: null, contacts: [], domain: '', description: '' } // oxfmt-ignore
    const written = writeToolMetadata(bare, given)
    for (const name of ['registration_client_uri', 'registration_access_token', 'jwks_uri', 'logo_uri', 'client_uri', 'policy_uri', 'tos_uri', 'contacts'])
      expect(written, name).not.toHaveProperty([name]) // oxfmt-ignore
    expect(written['jwks']).toEqual({ keys: [] })
    expect(Object.keys(written[TOOL] as object)).toEqual(['deployment_id', 'target_link_uri', 'custom_parameters', 'claims', 'messages']) // oxfmt-ignore
  })
})

describe('our own configuration', () => {
  it('names every address, algorithm and form that a tool needs', () => {
    const placements = expect.arrayContaining(['ContentArea', 'RichTextEditor']) as string[]
    expect(configurationDocument({ issuer: 'https://us.example', version: '7', variables: ['$User.id', 'plain'] })).toEqual({
      issuer: 'https://us.example',
      authorization_endpoint: 'https://us.example/lti/authorize',
      token_endpoint: 'https://us.example/lti/token',
      token_endpoint_auth_methods_supported: ['private_key_jwt'],
      token_endpoint_auth_signing_alg_values_supported: ['RS256'],
      jwks_uri: 'https://us.example/lti/keyset',
      registration_endpoint: 'https://us.example/lti/register',
      scopes_supported: ['openid', ...Object.keys(SCOPES)],
      response_types_supported: ['id_token'],
      response_modes_supported: ['form_post'],
      grant_types_supported: ['implicit', 'client_credentials'],
      subject_types_supported: ['public'],
      id_token_signing_alg_values_supported: ['RS256'],
      claims_supported: ['sub', 'iss', 'name', 'given_name', 'family_name', 'email', 'locale'],
      'https://purl.imsglobal.org/spec/lti-platform-configuration': {
        product_family_code: 'bathyscribe',
        version: '7',
        messages_supported: [
          { type: 'LtiResourceLinkRequest', placements },
          { type: 'LtiDeepLinkingRequest', placements },
          { type: 'LtiSubmissionReviewRequest' },
        ],
        variables: ['User.id', 'plain'],
      },
    }) // oxfmt-ignore
  })
})
