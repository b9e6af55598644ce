import {
  evidenceWords,
  headlineWords,
  remarkWords,
  wordsOf,
  type Explain,
  type PreflightRemark,
  type RefusalFacts,
  type Said,
  type Words,
} from '@bathyscribe/core/checks'
import { ERRORS, type ErrorCode } from './errors/catalogue.js'
import { sentenceOf, type Refusal } from './errors/problem.js'

/** A refusal as a finding keeps it. */
export function refusalFacts({ code, detail }: Pick<Refusal, 'code' | 'detail'>): RefusalFacts {
  return { code, detail: detail ?? null }
}

/** What was found, in the words of this version. */
export function inWords(said: Said): Words {
  return wordsOf(said, explain)
}

/** What is wrong in one sentence; null when nothing is. */
export function headlineInWords(headline: Said | null): string | null {
  return headline && headlineWords(headline, explain)
}

/** What shows that a launch works or not, as a mark of its proof says it. */
export function evidenceInWords(said: Said): string {
  return evidenceWords(said, explain)
}

/** A remark of preflight with its words. */
export function remarkInWords<R extends PreflightRemark>(remark: R): R & { statement: string; remedy: string } {
  return { ...remark, ...remarkWords(remark) }
}

/** Codes that this version does not know any more are told as they are. */
const explain: Explain = ({ code, detail }) => {
  if (!Object.hasOwn(ERRORS, code)) return { statement: code, sentence: code, hint: null }
  const known = code as ErrorCode
  const { sentence, hint } = ERRORS[known]
  return { statement: sentenceOf({ code: known, ...(detail !== null && { detail }) }), sentence, hint }
}
