import type { FramedTool } from '@bathyscribe/core/links'
import type { Link } from '../../records/statements/links.js'

/** Every origin on which a launch of this link shows something: where it is launched, initiated and answered. */
function originsOf({ resource, registration }: Link): string[] {
  const addresses = [
    resource.launchUrl,
    ...(registration.version === '1.3' ? [registration.initiationUrl, ...registration.redirectUris] : []),
  ]
  return [...new Set(addresses.filter((one) => one !== null).map((one) => new URL(one).origin))]
}

/** A link's tool as its frame meets it: what may be framed, and what that may use there. */
export function framedTool(link: Link): FramedTool {
  return { origins: originsOf(link), permissions: link.registration.framePermissions }
}
