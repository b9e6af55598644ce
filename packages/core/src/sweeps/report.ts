import { escapeUTF8 } from 'entities'
import { writeTable } from '../formats/index.js'
import type { Verdict } from '../checks/index.js'
import type { LinkChange } from './compare.js'

/** One link of a sweep, as a report has it. */
export interface ReportLine {
  course: string
  assignment: string
  tool: string
  state: 'waiting' | 'running' | 'done' | 'left_out'
  verdict: Verdict | null
  change: LinkChange | null
  cause: string | null
  tookMs: number | null
  soundingAt: string | null
}

const COLUMNS = ['course', 'assignment', 'tool', 'state', 'verdict', 'change', 'cause', 'seconds', 'sounding']

/** RFC 4180, with formulas defused. */
export function sweepCsv(lines: readonly ReportLine[]): string {
  return writeTable(
    COLUMNS,
    lines.map((one) => [
      one.course,
      one.assignment,
      one.tool,
      one.state,
      one.verdict ?? '',
      one.change ?? '',
      one.cause ?? '',
      one.tookMs === null ? '' : (one.tookMs / 1000).toFixed(3),
      one.soundingAt ?? '',
    ]),
  )
}

/**
 * The report in the XML that builds and schedulers read of test runs: a suite for each course, a case for each link. What failed is a failure, what could not be tried is skipped.
 * @param at ISO 8601
 */
export function sweepJunit(lines: readonly ReportLine[], about: { title: string; at: string }): string {
  const courses = [...new Set(lines.map((one) => one.course))]
  const suites = courses.map((course) => {
    const own = lines.filter((one) => one.course === course)
    return [
      `  <testsuite name="${text(course)}" timestamp="${text(about.at)}"${counts(own)}>`,
      ...own.map(caseOf),
      '  </testsuite>',
    ].join('\n')
  })
  return [
    `<?xml version="1.0" encoding="UTF-8"?>`,
    `<testsuites name="${text(about.title)}"${counts(lines)}>`,
    ...suites,
    '</testsuites>',
    '',
  ].join('\n')
}

function caseOf(one: ReportLine): string {
  const head = `    <testcase classname="${text(`${one.course}.${one.tool}`)}" name="${text(one.assignment)}" time="${((one.tookMs ?? 0) / 1000).toFixed(3)}"`
  if (one.verdict === 'fail')
    return `${head}>\n      <failure message="${text(one.cause ?? 'It failed.')}" type="${text(one.change ?? 'fail')}"/>\n    </testcase>`
  if (isSkipped(one)) return `${head}>\n      <skipped message="${text(one.cause ?? one.state)}"/>\n    </testcase>`
  return `${head}/>`
}

function counts(lines: readonly ReportLine[]): string {
  const failed = lines.filter((one) => one.verdict === 'fail').length
  const seconds = lines.reduce((sum, one) => sum + (one.tookMs ?? 0), 0) / 1000
  return ` tests="${lines.length}" failures="${failed}" errors="0" skipped="${lines.filter(isSkipped).length}" time="${seconds.toFixed(3)}"`
}

function isSkipped(one: ReportLine): boolean {
  return one.verdict === 'skipped' || one.verdict === null
}

/** Text as XML 1.0 may hold it (section 2.2); what it may not is left out. */
function text(value: string): string {
  return escapeUTF8(
    value
      .toWellFormed()
      .replace(/[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu, '')
      .replace(/[\t\n\r]/g, ' '),
  )
}
