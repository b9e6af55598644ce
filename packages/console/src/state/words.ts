import type { FramePermission, Mark } from '@bathyscribe/contract'
import type { StageName } from './types'

/** Words and tones for every state; shape, word and colour always go together. */
export type Tone = 'good' | 'look' | 'bad' | 'quiet'

const TONES: Record<string, Tone> = {
  proven: 'good', pass: 'good', accepted: 'good', enabled: 'good', published: 'good', graded: 'good', commented: 'good', active: 'good',
  look: 'look', warn: 'look', draft: 'look', waiting: 'look', suspended: 'look', running: 'look', opened: 'quiet', cleared: 'quiet', submitted: 'look', started: 'quiet', exempt: 'quiet',
  broken: 'bad', deleted: 'bad', fail: 'bad', refused: 'bad', failed: 'bad', retired: 'bad', interrupted: 'bad', dropped: 'quiet',
} // oxfmt-ignore

export function toneOf(state: string): Tone {
  return TONES[state] ?? 'quiet'
}

/** The states of a mark, as people read and hear them. */
export const MARK_WORDS: Record<Mark['state'], string> = {
  proven: 'proven',
  changed: 'changed since',
  not_yet: 'not yet',
  look: 'look here',
  broken: 'broken',
}

export const SIGNS: Record<Tone, string> = { good: '●', look: '▲', bad: '✕', quiet: '○' }

const STAGE_WORDS: Record<StageName, string> = {
  settings: 'Settings',
  registration: 'Keys',
  reachability: 'Reachability',
  launch_instructor: 'Launch as instructor',
  launch_test_learner: 'Launch as learner',
  score: 'Score back',
  gradebook: 'Gradebook value',
  again: 'A second visit',
  roster: 'Roster',
  picker: 'Picker',
  review: 'Review',
  cleanup: 'Cleaning up',
}
export function stageWord(stage: StageName): string {
  return STAGE_WORDS[stage]
}

export const SEES: Record<string, string> = {
  opaque: 'An opaque identifier only',
  name: 'Identifier and name',
  email: 'Identifier and email',
  name_and_email: 'Identifier, name and email',
}

export const SEES_OPTIONS = Object.entries(SEES).map(([value, text]) => ({ value, text }))

export const TARGET_OPTIONS = [
  { value: 'frame', text: 'A frame in the page' },
  { value: 'window', text: 'A window of its own' },
]

export const PLACE_WORDS: Record<string, string> = {
  course_menu: 'Course menu',
  unit_item: 'Unit item',
  running_text: 'Running text',
  assignment: 'Assignment',
}

/** Said wherever such a link is made. */
export const NO_SCORES =
  'Links in the menu, in units and in running text return no scores. Make an assignment of it if the work is to be graded.'

export const FEATURE_WORDS: Record<string, string> = {
  scores: 'returns scores',
  roster: 'reads the roster',
  picker: 'has a picker',
}

/** What a registration lets a tool's pages use in a frame. */
export const FRAME_PERMISSION_WORDS: Record<FramePermission, string> = {
  camera: 'camera',
  microphone: 'microphone',
  screen_sharing: 'screen sharing',
  clipboard: 'clipboard, to copy',
  full_screen: 'full screen',
}

/** `camera, microphone` */
export function inFrame(permissions: readonly FramePermission[]): string {
  return permissions.map((one) => FRAME_PERMISSION_WORDS[one]).join(', ')
}

/** `1 course`, `3 courses`. */
export function count(n: number, word: string, words = `${word}s`): string {
  return `${n} ${n === 1 ? word : words}`
}

export function plain(word: string): string {
  return word.replaceAll('_', ' ')
}

/** How long something took, in milliseconds. */
export function ms(value: number): string {
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ms`
}

/** How big a file is, as people read it. */
export function sizeWords(bytes: number): string {
  if (bytes < 1024) return `${bytes} bytes`
  return bytes < 1_048_576 ? `${Math.round(bytes / 1024)} KiB` : `${(bytes / 1_048_576).toFixed(1)} MiB`
}

/** A cause’s code, such as `other_scheme` or `other_scheme+trailing_slash`, as a person reads it. */
export function causeInWords(code: string): string {
  return plain(code).replaceAll('+', ' and ')
}
