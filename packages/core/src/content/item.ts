import { Problem } from '../result/index.js'
import { plainDecimal, shortened, upTo } from '../text/index.js'
import { asObject, type Fields } from '../intake/json.js'
import { checkLaunchAddress } from '../links/launch-address.js'
import type { DocumentTarget } from '../lti1/launch.js'

/** What a tool's picker can hand over. `tool_link` is launched, `address` is only opened. */
export const ITEM_KINDS = ['tool_link', 'address', 'file', 'html', 'image'] as const
export type ItemKind = (typeof ITEM_KINDS)[number]

/** The column that a tool wants for an item. */
export interface WantedColumn {
  label: string
  /** Decimal text; null when the tool did not say. */
  points: string | null
  resourceId: string | null
  tag: string | null
  /** Set when the tool shows single submissions of it. */
  review?: SubmissionReview
}

/** How a tool shows single submissions of a column (Submission Review 1.0 section 3.2). */
export interface SubmissionReview {
  /** Null for the address of the link. */
  url: string | null
  custom: Record<string, string>
  /** What the tool calls it. */
  label: string | null
  /** How far work is that can be looked at (`reviewableStatus`), as it was sent; null where the tool left it out, which is taken as any. */
  statuses: string[] | null
}

/** One item of a picker's answer, whichever version carried it. Everything in it is the tool's word: texts are plain, `html` is not sanitised. */
export interface ContentItem {
  kind: ItemKind
  /** Null for a tool link that leads to the registration's own address, and for HTML. */
  url: string | null
  title: string
  text: string
  html: string
  iconUrl: string | null
  mediaType: string | null
  target: DocumentTarget | null
  custom: Record<string, string>
  column: WantedColumn | null
  /** ISO 8601 moments. */
  opensAt: string | null
  dueAt: string | null
  closesAt: string | null
  /** When a file can be fetched no longer. */
  expiresAt: string | null
}

/** An item that is not taken, by its place in the answer (from 0); the others still are. */
export interface ItemProblem {
  place: number
  title: string
  code:
    | 'item.unknown_type'
    | 'item.no_url'
    | 'item.address'
    | 'item.malformed'
    | 'item.no_html'
    | 'item.expired'
    | 'item.not_fetched'
  detail: string
}

export interface ItemsRead {
  items: ContentItem[]
  problems: ItemProblem[]
}

/** What a picker is asked for, whichever version asks. */
export interface AskedOfPicker {
  returnUrl: string
  /** Ours, to be sent back unchanged. */
  data: string
  title: string
  text: string
  multiple: boolean
  /** Whether anything but tool links can be used where it is picked for. */
  onlyToolLinks: boolean
}

export const MOST_ITEMS = 500

/** Why the list of items cannot be read at all. */
export type ItemsProblem = Problem<'picker.items_malformed' | 'picker.too_many_items'>

/** One line of plain text out of whatever was sent: trimmed, without control characters, clipped. */
export function plainLine(value: unknown, most = 200): string {
  if (typeof value !== 'string') return ''
  const line = value
    .toWellFormed()
    .replace(/[\u0000-\u001f\u007f-\u009f]+/g, ' ')
    .trim()
  return shortened(line, most).trim()
}

export function plainText(value: unknown, most = 20_000): string {
  if (typeof value !== 'string') return ''
  const text = value
    .toWellFormed()
    .replace(/[\u0000-\u0008\u000b-\u001f\u007f]/g, '')
    .trim()
  return shortened(text, most)
}

/** Points as plain decimal text with at most four decimals; null for what is no number above zero and at most 100,000. */
export function readPoints(value: unknown): string | null {
  const number = typeof value === 'string' && value.trim() !== '' ? Number(value) : value
  if (typeof number !== 'number' || !Number.isFinite(number) || number <= 0 || number > 100_000) return null
  const text = plainDecimal(number.toFixed(4))
  return text === '0' ? null : text
}

/** A moment as ISO 8601 in UTC; null for what is none. A date without a zone is taken as UTC. */
export function readMoment(value: unknown): string | null {
  if (
    typeof value !== 'string' ||
    !/^\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}(:\d{2}(\.\d{1,9})?)?(Z|[+-]\d{2}:?\d{2})?)?$/.test(value)
  )
    return null
  const at = new Date(/[zZ]$|[+-]\d{2}:?\d{2}$/.test(value.slice(10)) || value.length === 10 ? value : `${value}Z`)
  return Number.isNaN(at.getTime()) ? null : at.toISOString()
}

/** Custom parameters of an item: texts, numbers and truth values; at most fifty. */
export function readCustom(value: unknown): Record<string, string> {
  const given = Object.entries(asObject(value) ?? {})
  const texts = given.flatMap(([name, one]): [string, string][] => {
    const key = plainLine(name, 100)
    return key !== '' && ['string', 'number', 'boolean'].includes(typeof one)
      ? [[key, plainText(String(one), 2000)]]
      : []
  })
  return Object.fromEntries(texts.slice(0, 50))
}

/** An address of an item that a person's browser opens: http or https, without user name; a `#` part only where nothing is launched. */
export function readItemUrl(value: unknown, launched: boolean): string | Problem<'item.address'> {
  if (typeof value !== 'string') return new Problem('item.address', 'is not a text')
  const given = value.trim()
  const problem = checkLaunchAddress(launched ? given : upTo(given, '#'))
  return problem ? new Problem('item.address', `${problem.code}: ${problem.detail.slice(0, 120)}`) : given
}

/** The address of an icon, if it is one that may be shown. */
export function readIcon(value: unknown): string | null {
  const read = readItemUrl(value, false)
  return read instanceof Problem ? null : read
}

/**
 * Reads each of a list of items by itself, so that one that is wrong costs the others nothing.
 * @param missing what is said of a value that is no list
 */
export function readItems(
  list: unknown,
  missing: string,
  read: (item: Fields) => ContentItem | Problem<ItemProblem['code']>,
): ItemsRead | ItemsProblem {
  if (!Array.isArray(list)) return new Problem('picker.items_malformed', missing)
  if (list.length > MOST_ITEMS) return new Problem('picker.too_many_items', `${list.length}, at most ${MOST_ITEMS}`)
  const items: ContentItem[] = []
  const problems: ItemProblem[] = []
  list.forEach((one: unknown, place) => {
    const item = asObject(one)
    const found = item ? read(item) : new Problem('item.malformed', 'not an object')
    if (found instanceof Problem)
      problems.push({ place, title: plainLine(item?.['title']), code: found.code, detail: found.detail })
    else items.push(found)
  })
  return { items, problems }
}
