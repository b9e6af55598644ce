import { writeResultId, type PlatformFacts } from '@bathyscribe/core/lti1'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'

/** How this platform names itself to tools. */
export function platformFacts({ settings, version }: Pick<Context, 'settings' | 'version'>): PlatformFacts {
  return {
    guid: settings.platformGuid || new URL(settings.publicUrl).host,
    name: settings.platformName,
    description: settings.platformName,
    url: settings.publicUrl,
    contactEmail: settings.contactEmail,
    version,
  }
}

/** The address at which tools return scores. It is part of what they sign, so it never comes from a request. */
export function outcomesUrl(settings: Pick<Context['settings'], 'publicUrl'>): string {
  return `${settings.publicUrl}/lti/outcomes`
}

/** Where tools get service tokens. */
export function tokenUrl(settings: Pick<Context['settings'], 'publicUrl'>): string {
  return `${settings.publicUrl}/lti/token`
}

/** Where tools send the browser to ask for an id_token. */
export function authorizationUrl(settings: Pick<Context['settings'], 'publicUrl'>): string {
  return `${settings.publicUrl}/lti/authorize`
}

/** The work of the person of a link, sealed, so that neither can be exchanged. */
export function resultIdOf({ keys }: Pick<Context, 'keys'>, link: Pick<Link, 'resource' | 'person'>): string {
  return writeResultId(keys.resultIdKey, { linkId: link.resource.id, personId: link.person.id })
}

/** Where a tool may send the browser back: by the sealed name of person and link, so that nobody can fill the log by guessing. */
export function returnUrl({ publicUrl }: Pick<Context['settings'], 'publicUrl'>, resultId: string): string {
  return `${publicUrl}/lti/return/${resultId}`
}
