import { decodeForm, type Parameter } from '../../oauth1/index.js'
import { percentDecoded } from '../../text/index.js'
import { ofHeaders, type Request } from './request.js'

const TAKES_VALUE = /^(-[XHdFAbeomuTxEUrCc]|--(?:request|header|data|data-raw|data-binary|data-ascii|data-urlencode|form|form-string|user-agent|cookie|referer|output|max-time|user|url|proxy|cert|key|cacert|json|connect-timeout|retry))$/ // oxfmt-ignore
const DATA = /^(-d|--data|--data-raw|--data-binary|--data-ascii)$/

/** Commands wherever they begin a line, behind a prompt or not, each up to the next. */
export function curlCommands(text: string): string[] {
  const commands: string[][] = []
  for (const line of text.split('\n')) {
    if (/^(?:[$>#%]\s?)?curl(?:\.exe)?\s/i.test(line.trimStart())) commands.push([])
    commands.at(-1)?.push(line)
  }
  return commands.map((lines) => lines.join('\n'))
}

/** Reads a curl command, as people type it or browsers copy it for a Unix shell or for Windows. */
export function readCurl(command: string): Request | undefined {
  const words = wordsOf(command)
  const from = words.findIndex((word) => /^curl(\.exe)?$/i.test(word))
  if (from < 0) return undefined
  let [method, url]: (string | undefined)[] = []
  let asQuery = false
  const headers: string[] = []
  const parameters: Parameter[] = []
  for (let at = from + 1; at < words.length; at++) {
    let word = words[at]!
    let value: string | undefined
    const long = /^(--[\w-]+)=/.exec(word)
    const short = /^-[XHdFu](?=.)/.exec(word)
    if (long) [word, value] = [long[1]!, word.slice(long[0].length)]
    else if (short && !word.startsWith('--')) [word, value] = [short[0], word.slice(2)]
    else if (TAKES_VALUE.test(word)) value = words[++at]
    if (!word.startsWith('-')) url ??= word
    else if (word === '--url') url ??= value
    else if (word === '-G' || word === '--get') asQuery = true
    else if (value === undefined) continue
    else if (word === '-X' || word === '--request') method = value.toUpperCase()
    else if (word === '-H' || word === '--header') headers.push(value)
    else if (DATA.test(word)) parameters.push(...decodeForm(value))
    else if (word === '--data-urlencode' || word === '-F' || word === '--form' || word === '--form-string')
      parameters.push(pairOf(value))
  }
  if (url === undefined) return undefined
  const isSent = parameters.length > 0 && !asQuery
  const signed = ofHeaders(headers.map(headerOf))
  return {
    method: method ?? (isSent ? 'POST' : 'GET'),
    url,
    parameters: [...parameters, ...signed.parameters],
    bearer: signed.bearer,
  }
}

function headerOf(line: string): Parameter {
  const at = line.indexOf(':')
  return at < 0 ? [line, ''] : [line.slice(0, at).trim(), line.slice(at + 1).trim()]
}

function pairOf(text: string): Parameter {
  const at = text.indexOf('=')
  return at < 0 ? [text, ''] : [percentDecoded(text.slice(0, at)), text.slice(at + 1)]
}

const ESCAPES: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t' }

/** The words of a command, by the rules of Unix shells, and with the carets that Windows needs. Reads it once. */
function wordsOf(command: string): string[] {
  const isWindows = /\^\s*\r?\n|\^"/.test(command)
  const words: string[] = []
  let word = ''
  let inWord = false
  let quote: '"' | "'" | "$'" | '' = ''
  for (let at = 0; at < command.length; at++) {
    const sign = command[at]!
    const next = command[at + 1] ?? ''
    if (isWindows && sign === '^') {
      if (next === '\n' || next === '\r') continue
      if (next !== '"') word += next
      else if (command[at - 1] === '\\') word = `${word.slice(0, -1)}"`
      else quote = quote === '' ? '"' : ''
      inWord = true
      at++
    } else if (quote === "'") {
      if (sign === "'") quote = ''
      else word += sign
    } else if (sign === '\\' && quote !== '' && next !== '') {
      at++
      word += quote === "$'" ? (ESCAPES[next] ?? next) : '"\\$`'.includes(next) ? next : `\\${next}`
    } else if (quote !== '') {
      if (sign === quote.at(-1)) quote = ''
      else word += sign
    } else if (sign === '\\') {
      if (next === '\r') at++
      else if (next !== '\n') word += next
      at++
    } else if (sign === "'" || sign === '"' || (sign === '$' && next === "'")) {
      quote = sign === '$' ? "$'" : sign
      if (sign === '$') at++
      inWord = true
    } else if (/\s/.test(sign)) {
      if (inWord || word !== '') words.push(word)
      word = ''
      inWord = false
    } else word += sign
  }
  return inWord || word !== '' ? [...words, word] : words
}
