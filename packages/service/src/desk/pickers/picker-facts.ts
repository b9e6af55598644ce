import { writeResultId } from '@bathyscribe/core/lti1'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'

/** What is asked of a tool's picker; undefined for links that are launched. */
export function pickerFacts(context: Pick<Context, 'settings' | 'keys'>, { resource, person, course }: Link) {
  const { picking } = resource
  if (picking === null) return undefined
  return {
    returnUrl: pickedUrl(context.settings, resource.id),
    data: pickingData(context, resource.id, person.id),
    title: course.title,
    text: '',
    multiple: picking.multiple,
    // Only what is launched can bring a score; units and running text take everything.
    onlyToolLinks: picking.purpose === 'assignment',
  }
}

/** Where the answer of a picking comes to. */
export function pickedUrl(settings: Pick<Context['settings'], 'publicUrl'>, pickingId: string): string {
  return `${settings.publicUrl}/lti/picked/${pickingId}`
}

/** What the tool has to send back unchanged: sealed for this picking and person, so that no other answer fits. */
export function pickingData({ keys }: Pick<Context, 'keys'>, pickingId: string, personId: string): string {
  return writeResultId(keys.resultIdKey, { linkId: pickingId, personId })
}
