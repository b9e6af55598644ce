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

/** A launch names it twice; it is sealed once. */
const sealed = new WeakMap<Pick<Link, 'resource' | 'person'>, string>()

/** The work of the person of a link, sealed, so that neither can be exchanged. */
export function resultIdOf({ keys }: Pick<Context, 'keys'>, link: Pick<Link, 'resource' | 'person'>): string {
  const known = sealed.get(link)
  if (known !== undefined) return known
  const written = writeResultId(keys.resultIdKey, { linkId: link.resource.id, personId: link.person.id })
  sealed.set(link, written)
  return written
}

/** Where a tool may send the browser back: sealed for this person and link, so that nobody can fill the log by guessing. */
export function returnUrl(
  context: Pick<Context, 'settings' | 'keys'>,
  link: Pick<Link, 'resource' | 'person'>,
): string {
  return `${context.settings.publicUrl}/lti/return/${resultIdOf(context, link)}`
}
