import { MARK_SIGNS, wallTime, type MarkState } from '@bathyscribe/contract'
import Table from 'cli-table3'
import pc from 'picocolors'
import { terminal } from './terminal.js'

/** Words with the colour of their meaning; colours only where a terminal shows them. */
type Tone = 'good' | 'look' | 'bad' | 'quiet' | 'strong' | 'plain'

const COLOURS = pc.createColors(true)
const PAINT: Record<Tone, (text: string) => string> = {
  good: COLOURS.green,
  look: COLOURS.yellow,
  bad: COLOURS.red,
  quiet: COLOURS.dim,
  strong: COLOURS.bold,
  plain: (text) => text,
}
export function paint(tone: Tone, text: string): string {
  return inColour(tone, visible(text))
}

/** The same for what was made visible before. */
function inColour(tone: Tone, text: string): string {
  return terminal().colours ? PAINT[tone](text) : text
}

const VERDICT_TONES: Record<string, Tone> = {
  pass: 'good', accepted: 'good', enabled: 'good', published: 'good', graded: 'good',
  warn: 'look', draft: 'look', waiting: 'look', suspended: 'look', running: 'look', opened: 'look',
  fail: 'bad', deleted: 'bad', refused: 'bad', failed: 'bad', retired: 'bad', interrupted: 'bad',
} // oxfmt-ignore

/** A word of state in its colour, blanks for underscores. */
export function state(word: string): string {
  return paint(VERDICT_TONES[word] ?? 'quiet', word.replaceAll('_', ' '))
}

const MARK_TONES: Record<MarkState, Tone> = {
  proven: 'good',
  changed: 'look',
  not_yet: 'quiet',
  look: 'look',
  broken: 'bad',
}

/** The proof line, `●●●●▲○`, each mark in its colour. */
export function proofLine(marks: readonly { state: MarkState }[]): string {
  return marks.map((mark) => paint(MARK_TONES[mark.state], MARK_SIGNS[mark.state])).join('')
}

/** A mark's sign alone. */
export function sign(mark: { state: MarkState }): string {
  return paint(MARK_TONES[mark.state], MARK_SIGNS[mark.state])
}

// What tools and people send is shown, never obeyed: no control character of theirs reaches the terminal.

const CONTROL = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069]/g
export function visible(text: string): string {
  return text.replace(CONTROL, (character) => `\\u${character.charCodeAt(0).toString(16).padStart(4, '0')}`)
}

/** A person in a list or a sentence: `Niamh Farrow (niamh)`. */
export function named({ fullName, username }: { fullName: string; username: string }): string {
  return `${visible(fullName)} (${visible(username)})`
}

/** What an assignment is called in commands: `HYD-210/bends`. */
export function shortName({ code }: { code: string }, { slug }: { slug: string }): string {
  return visible(`${code.replaceAll(' ', '-')}/${slug}`)
}

const NO_LINES = {
  top: '', 'top-mid': '', 'top-left': '', 'top-right': '', bottom: '', 'bottom-mid': '', 'bottom-left': '', 'bottom-right': '',
  left: '', 'left-mid': '', mid: '', 'mid-mid': '', right: '', 'right-mid': '', middle: '  ',
} // oxfmt-ignore

/** Rows under heads, aligned by what is shown, not by bytes. */
export function table(heads: readonly string[], rows: readonly (readonly string[])[]): string {
  const grid = new Table({
    head: heads.map((head) => inColour('quiet', head)),
    chars: NO_LINES,
    style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
  })
  grid.push(...rows.map((row) => [...row]))
  return grid
    .toString()
    .split('\n')
    .map((one) => one.trimEnd())
    .join('\n')
}

/** Label and value, one pair a line. */
export function pairs(rows: readonly (readonly [string, string])[]): string {
  const width = Math.max(...rows.map(([label]) => label.length))
  return rows.map(([label, value]) => `${inColour('quiet', label.padEnd(width))}  ${value}`).join('\n')
}

/** A moment in the person's own zone, without its seconds' fractions. */
export function moment(iso: string | null): string {
  if (iso === null) return '–'
  const at = new Date(iso)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())} ${two(at.getHours())}:${two(at.getMinutes())}:${two(at.getSeconds())}`
}

/** A moment as the clocks of a zone show it, with the zone's name: dates that people plan by. */
export function zoned(iso: string, zone: string): string {
  return `${wallTime(new Date(iso), zone).replace('T', ' ')} ${zone}`
}

export function milliseconds(ms: number): string {
  return ms < 10 ? `${ms.toFixed(1)} ms` : ms < 10_000 ? `${Math.round(ms)} ms` : `${(ms / 1000).toFixed(1)} s`
}
