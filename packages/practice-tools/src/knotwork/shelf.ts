import { selectionFields, type Item1 } from '../lti1/answer-picking.js'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { PICK_FAULTS } from '../parts/switches.js'
import { DRILLS } from './drills.js'

/** What Knotwork's picker can be told to do wrong, beside what every practice tool can. */
export const PICKER_FAULTS = {
  pick_unsigned: 'Answer pickers without a signature',
  pick_wrong_secret: 'Sign the picker’s answer with another secret',
  ...PICK_FAULTS,
} as const
export type PickerFault = keyof typeof PICKER_FAULTS

/** Points that a drill is worth on the shelf. */
export const DRILL_POINTS = 30
/** Settings of a link: which try is sent, and how long a drill is. */
export const LINK_SETTINGS = { send: ['best try', 'last try'], length: ['whole drill', 'one question'] } as const

/** A picking that is open in somebody's browser. */
export interface Picking1 {
  returnUrl: string
  data: string | undefined
  multiple: boolean
  name: string
}

/** Reads a request to the picker, verified before. @throws LaunchRefused */
export function readPicking(fields: Fields): Picking1 {
  const returnUrl = fields['content_item_return_url'] ?? ''
  if (!URL.canParse(returnUrl)) throw new LaunchRefused(400, 'The request names no address to return to.')
  return {
    returnUrl,
    data: fields['data'],
    multiple: fields['accept_multiple'] === 'true',
    name: fields['lis_person_name_full'] ?? 'Instructor',
  }
}

/** The fields that go back to the platform for what was chosen; misbehaving as told. */
export function selection(
  publicUrl: string,
  credentials: { key: string; secret: string },
  picking: Picking1,
  chosen: Fields,
  does: (fault: PickerFault) => boolean,
): Fields {
  const drills = DRILLS.filter((drill) => chosen['drill'] === drill.id || chosen[`take-${drill.id}`] === 'on')
  const items: Item1[] = drills.map((drill) => ({
    '@type': 'LtiLinkItem',
    mediaType: 'application/vnd.ims.lti.v1.ltilink',
    url: `${publicUrl}/launch`,
    title: drill.title,
    text: `Three questions: ${drill.title.toLowerCase()}.`,
    custom: { drill: drill.id, send: chosen['send'] ?? 'best try', length: chosen['length'] ?? 'whole drill' },
    placementAdvice: { presentationDocumentTarget: 'iframe' },
    lineItem: {
      '@type': 'LineItem',
      label: drill.title,
      reportingMethod: 'res:totalScore',
      assignedActivity: { '@id': `${publicUrl}/drills/${drill.id}`, activityId: drill.id },
      scoreConstraints: {
        '@type': 'NumericLimits',
        normalMaximum: does('pick_other_points') ? 7 : DRILL_POINTS,
        totalMaximum: does('pick_other_points') ? 7 : DRILL_POINTS,
      },
    },
  }))
  const first = items[0] ?? {}
  const spoiled = does('pick_error')
    ? []
    : [
        ...(does('pick_many') ? Array.from({ length: 200 }, (_, i) => ({ ...first, title: `Drill ${i + 1}` })) : items),
        ...(does('pick_no_url')
          ? [{ '@type': 'FileItem', mediaType: 'application/pdf', title: 'A chart that was never drawn' }]
          : []),
        ...(does('pick_unknown_type') ? [{ '@type': 'SemaphoreItem', title: 'Flags' }] : []),
      ]
  const request = {
    content_item_return_url: picking.returnUrl,
    ...(picking.data !== undefined && { data: does('pick_wrong_data') ? 'not what you sent' : picking.data }),
  }
  const secret = does('pick_wrong_secret') ? `not ${credentials.secret}` : credentials.secret
  const more: Record<string, string> = does('pick_error')
    ? { lti_errormsg: 'The shelf is empty today.', lti_errorlog: 'shelf: no drills' }
    : {}
  const signed = selectionFields({ ...credentials, secret }, request, spoiled, more)
  return does('pick_unsigned')
    ? Object.fromEntries(Object.entries(signed).filter(([name]) => !name.startsWith('oauth_')))
    : signed
}
