import { FRAME_PERMISSIONS, type FramePermission, type NewTool, type Tool } from '@bathyscribe/contract'
import { InvalidArgumentError, Option } from 'commander'

/** What of a person's identity a tool may see. */
export type Sees = Tool['disclosure']

const SEES = ['opaque', 'name', 'email', 'name_and_email'] satisfies Sees[]

/** `--sees`, as several commands about tools have it. */
export function seesOption(description: string): Option {
  return new Option('--sees <what>', description).choices(SEES)
}

/** Collects what a frame may use; “none” for nothing. */
export function collectFramePermissions(text: string, before: FramePermission[] = []): FramePermission[] {
  if (text === 'none') return []
  const one = FRAME_PERMISSIONS.find((each) => each === text.replaceAll('-', '_'))
  if (!one) throw new InvalidArgumentError(`Give one of ${FRAME_PERMISSIONS.join(', ')}, or none.`)
  return [...before, one]
}

export type Placement = NonNullable<NewTool['placements']>[number]

/** `course_menu=Harbour` is a place with the label that links there get. */
export function collectPlaces(text: string, before: Placement[] = []): Placement[] {
  const [place = '', label] = text.split(/=(.*)/s)
  return [...before, { place: place as Placement['place'], ...(label && { label }) }]
}
