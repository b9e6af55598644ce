import { visibleText } from '../../text/index.js'
import type { ToolAnswer } from '../launch-answer.js'

/** Answers to the same request, sent more than once, and what was sent with it that a page may quote. */
export interface Sample {
  answers: readonly ToolAnswer[]
  quotes: readonly string[]
}

/** `unclear`: what differs may change by itself, as far as these answers tell. */
export type Likeness = 'alike' | 'different' | 'unclear'

/** What a page says first; finding what two have in common takes the square of it. */
const MOST_CHARACTERS = 2000
const MOST_WORDS = 300
/** So often words have to have differed on either side before it counts: of two greetings drawn by lot, the same comes four times in a row soon enough, but hardly on both sides. */
export const SURE_OF_WORDS = 4
const SURE_OF_STATUS = 2

/** What an answer says, word by word: without the key sent, figures and long tokens, which are others each time. */
function wordsOf({ returned, failure, body }: ToolAnswer, quotes: readonly string[]): string[] {
  let words = returned?.error ?? returned?.errorLog ?? failure ?? visibleText(body)
  for (const quote of quotes) if (quote !== '') words = words.replaceAll(quote, '…')
  return words
    .slice(0, MOST_CHARACTERS)
    .replace(/[A-Za-z0-9+/_=-]{16,}/g, '…')
    .replace(/\d+/g, '0')
    .split(/\s+/)
    .filter((word) => word !== '')
    .slice(0, MOST_WORDS)
}

/** Words that two texts have in common, in their order: the longest common subsequence. */
function inBoth(a: readonly string[], b: readonly string[]): string[] {
  const width = b.length + 1
  const lengths = new Uint16Array((a.length + 1) * width)
  for (let i = a.length - 1; i >= 0; i--)
    for (let j = b.length - 1; j >= 0; j--)
      lengths[i * width + j] =
        a[i] === b[j]
          ? lengths[(i + 1) * width + j + 1]! + 1
          : Math.max(lengths[(i + 1) * width + j]!, lengths[i * width + j + 1]!)
  const common: string[] = []
  for (let i = 0, j = 0; i < a.length && j < b.length;)
    if (a[i] === b[j]) {
      common.push(a[i]!)
      i++
      j++
    } else if (lengths[(i + 1) * width + j]! >= lengths[i * width + j + 1]!) i++
    else j++
  return common
}

const textOf = (words: readonly string[]) => words.join(' ')

/**
 * Whether a tool answers two requests alike. What changes by itself (references, times, greetings) is found by sending each more than once: it is what differs between
 * answers to the same. One answer of either side that is the same, or all that does not change by itself being the same, is alike. Different is only what each side said each
 * time and the other never.
 */
export function likeness(one: Sample, other: Sample): Likeness {
  const least = Math.min(one.answers.length, other.answers.length)
  const statuses = ({ answers }: Sample) => [...new Set(answers.map(({ status }) => status))]
  const [a, b] = [statuses(one), statuses(other)]
  if (!a.some((status) => b.includes(status)))
    return a.length === 1 && b.length === 1 && least >= SURE_OF_STATUS ? 'different' : 'unclear'
  // What either was sent with is left out of both: a key of one letter stands in many words.
  const quotes = [...one.quotes, ...other.quotes]
  const texts = ({ answers }: Sample) => answers.map((each) => wordsOf(each, quotes))
  const [first, second] = [texts(one), texts(other)]
  if (first.some((text) => second.some((each) => textOf(each) === textOf(text)))) return 'alike'
  const [stable, stableToo] = [first.reduce(inBoth), second.reduce(inBoth)]
  // Where nothing stays, nothing can be the same.
  if (least > 1 && stable.length > 0 && textOf(stable) === textOf(stableToo)) return 'alike'
  const isOwn = (words: readonly string[], others: readonly string[][]) => {
    const theirs = new Set(others.flat())
    return words.some((word) => !theirs.has(word))
  }
  return least >= SURE_OF_WORDS && isOwn(stable, second) && isOwn(stableToo, first) ? 'different' : 'unclear'
}
