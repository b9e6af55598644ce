import { LaunchRefused } from '../lti1/verify-launch.js'
import type { Platform } from './state.js'

const TOOL_CONFIGURATION = 'https://purl.imsglobal.org/spec/lti-tool-configuration'
export const SCORE_SCOPES = [
  'https://purl.imsglobal.org/spec/lti-ags/scope/lineitem',
  'https://purl.imsglobal.org/spec/lti-ags/scope/result.readonly',
  'https://purl.imsglobal.org/spec/lti-ags/scope/score',
]

/** What a tool says of itself. */
export interface About {
  name: string
  description: string
  /** Path that launches lead to. */
  target: string
  /** Path of the picker; none for tools without one. */
  picker?: string
  /** Path at which submissions are looked at; none for tools that do not show them. */
  review?: string
  /** Paths that the browser may be sent back to, beside that of launches. */
  redirects?: readonly string[]
  scopes: readonly string[]
  claims: readonly string[]
  custom?: Record<string, string>
  placements: readonly string[]
}

/** The same as client metadata: for registering, and at /config.json for platforms that read it. */
export function clientMetadata(publicUrl: string, about: About): Record<string, unknown> {
  return {
    application_type: 'web',
    grant_types: ['implicit', 'client_credentials'],
    response_types: ['id_token'],
    token_endpoint_auth_method: 'private_key_jwt',
    client_name: about.name,
    initiate_login_uri: `${publicUrl}/login`,
    redirect_uris: [`${publicUrl}/launch`, ...(about.redirects ?? []).map((path) => `${publicUrl}${path}`)],
    jwks_uri: `${publicUrl}/keyset`,
    scope: ['openid', ...about.scopes].join(' '),
    contacts: ['support@tools.example'],
    [TOOL_CONFIGURATION]: {
      domain: new URL(publicUrl).host,
      target_link_uri: `${publicUrl}${about.target}`,
      description: about.description,
      claims: about.claims,
      ...(about.custom && { custom_parameters: about.custom }),
      messages: [
        {
          type: 'LtiResourceLinkRequest',
          target_link_uri: `${publicUrl}${about.target}`,
          label: about.name,
          placements: about.placements,
        },
        ...(about.review
          ? [
              {
                type: 'LtiSubmissionReviewRequest',
                target_link_uri: `${publicUrl}${about.review}`,
                label: `Look at it in ${about.name}`,
                placements: about.placements,
              },
            ]
          : []),
        ...(about.picker
          ? [
              {
                type: 'LtiDeepLinkingRequest',
                target_link_uri: `${publicUrl}${about.picker}`,
                label: `Choose in ${about.name}`,
                placements: about.placements,
              },
            ]
          : []),
      ],
    },
  }
}

interface Configuration {
  issuer: string
  authorization_endpoint: string
  token_endpoint: string
  jwks_uri: string
  registration_endpoint: string
}

/** Registers with the platform that invited: reads its configuration, sends metadata, keeps what it is given. @throws LaunchRefused */
export async function registerWith(
  publicUrl: string,
  about: About,
  configurationUrl: string,
  token: string,
): Promise<Platform> {
  const configuration = await readJson<Configuration>(await fetch(configurationUrl), 'The platform’s configuration')
  if (new URL(configuration.registration_endpoint).origin !== new URL(configurationUrl).origin)
    throw new LaunchRefused(400, 'The platform’s configuration points at another site.')
  const response = await fetch(configuration.registration_endpoint, {
    method: 'POST',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
    body: JSON.stringify(clientMetadata(publicUrl, about)),
  })
  const given = await readJson<Record<string, unknown>>(response, 'The registration')
  const lti = given[TOOL_CONFIGURATION] as { deployment_id?: string }
  return {
    issuer: configuration.issuer,
    clientId: String(given['client_id']),
    deploymentId: lti.deployment_id ?? '',
    authorizationUrl: configuration.authorization_endpoint,
    tokenUrl: configuration.token_endpoint,
    keysetUrl: configuration.jwks_uri,
    managementUrl: String(given['registration_client_uri']),
    managementToken: String(given['registration_access_token']),
  }
}

/** Proposes a change through the address that the registration gave. */
export async function proposeChange(
  publicUrl: string,
  about: About,
  platform: Platform,
  scopes: readonly string[],
): Promise<number> {
  const response = await fetch(platform.managementUrl ?? '', {
    method: 'PUT',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${platform.managementToken ?? ''}` },
    body: JSON.stringify(clientMetadata(publicUrl, { ...about, scopes: [...about.scopes, ...scopes] })),
  })
  return response.status
}

async function readJson<T>(response: Response, what: string): Promise<T> {
  const text = await response.text()
  if (!response.ok) throw new LaunchRefused(502, `${what} was answered with ${response.status}: ${text.slice(0, 300)}`)
  return JSON.parse(text) as T
}
