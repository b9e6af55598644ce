import type { PreflightRemark, TableAnswer } from '@bathyscribe/contract'
import { ASSIGNMENT_COLUMNS } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { paint, shortName, state, table, visible } from '../terminal/output.js'

/** The template of the table: its heads, and what stands in each column as comments for people. */
export function tableTemplate(): string {
  return `${Object.keys(ASSIGNMENT_COLUMNS).join(',')},custom.name\n`
}

export function describeColumns(): string {
  const rows = Object.entries(ASSIGNMENT_COLUMNS).map(([name, { also, means }]) => [
    name,
    also.join(', ') || '–',
    means,
  ])
  return table(['column', 'also called', 'content'], [...rows, ['custom.NAME', '–', 'a custom parameter of the link']])
}

const ACTS: Record<TableAnswer['rows'][number]['act'], string> = {
  make: paint('good', 'new'), change: paint('look', 'changes'), keep: paint('quiet', 'stays'), refuse: paint('bad', 'refused'),
} // oxfmt-ignore

/** What a table would do or did, row by row. */
export function showTable(answer: TableAnswer): string {
  const rows = answer.rows.map((row) => [
    String(row.line),
    ACTS[row.act],
    visible(row.title),
    row.tool ?? '–',
    row.points ?? '–',
    [
      ...row.problems.map((one) => paint('bad', `✕ ${one.column}: ${one.message}`)),
      ...row.changes.map((one) => `${one.field}: ${one.now || 'nothing'} → ${one.wanted || 'nothing'}`),
      ...row.remarks.filter((one) => one.verdict === 'warn').map((one) => paint('look', `▲ ${one.statement}`)),
    ].join('\n'),
  ])
  const unknown =
    answer.unknownColumns.length > 0 ? `\n${paint('look', `▲ Not read: ${answer.unknownColumns.join(', ')}`)}` : ''
  const sum = `${answer.makes} new, ${answer.changes} changed, ${answer.keeps} as they were, ${answer.refuses} refused.`
  return `${table(['line', '', 'title', 'tool', 'points', ''], rows)}\n\n${answer.done ? `${paint('good', '●')} Done: ` : 'Only looked at, nothing made: '}${sum}${unknown}`
}

/** A preflight remark as one or two lines. */
export function showRemark(remark: PreflightRemark): string {
  return remark.accepted
    ? `${state('accepted')} ${remark.statement} ${paint('quiet', `Accepted by ${remark.accepted.by}: “${remark.accepted.reason}”`)}`
    : `${state(remark.verdict)} ${remark.statement} ${paint('quiet', remark.remedy)}`
}

export function addPreflightCommand(assignment: Command): void {
  assignment
    .command('preflight <course-or-assignment>')
    .description('says what preflight thinks of one assignment (COURSE/short-name) or of a whole course')
    .addHelpText('after', examples('assignment preflight HYD-210', 'assignment preflight NAV-120/running-fix --json'))
    .action(
      job(async ({ client, show }, ref) => {
        if (ref.includes('/')) {
          const one = await client.call('showAssignment', { params: { assignment: ref } })
          show({ remarks: one.preflight }, ({ remarks }) =>
            remarks.length === 0 ? `${paint('good', '●')} Nothing to remark.` : remarks.map(showRemark).join('\n'),
          )
          if (one.preflight.some((remark) => remark.verdict === 'fail')) throw new CheckFailed()
          return
        }
        const answer = await client.call('preflightCourse', { params: { course: ref } })
        show(answer, ({ items }) => {
          const worth = items.filter((one) => one.remarks.length > 0)
          if (worth.length === 0) return `${paint('good', '●')} Nothing to remark on ${items.length} assignments.`
          return worth
            .map(
              (one) =>
                `${paint('strong', visible(one.title))}  ${paint('quiet', one.slug)}\n${one.remarks.map((remark) => `  ${showRemark(remark)}`).join('\n')}`,
            )
            .join('\n\n')
        })
        if (answer.items.some((one) => one.remarks.some((remark) => remark.verdict === 'fail'))) throw new CheckFailed()
      }),
    )
}

/** Acts on assignments that are there: copy, delete, bring back, let a warning stand. */
export function addLifeCommands(assignment: Command): void {
  assignment
    .command('copy <assignment>')
    .description('copies it as a draft, with a column of its own')
    .addHelpText(
      'after',
      examples('assignment copy HYD-210/soundings-and-datum', 'assignment copy NAV-120/running-fix --json'),
    )
    .action(
      job(async ({ client, show }, ref) =>
        show(
          await client.call('copyAssignment', { params: { assignment: ref } }),
          (one) => `“${visible(one.title)}” is made: ${shortName(one.course, one)}`,
        ),
      ),
    )
  assignment
    .command('delete <assignment>')
    .description('deletes it; its scores are kept, and it can be restored for a while')
    .addHelpText('after', examples('assignment delete HYD-210/swath-planning', 'assignment delete NAV-120/running-fix'))
    .action(
      job(async ({ client, show }, ref) =>
        show(
          await client.call('deleteAssignment', { params: { assignment: ref } }),
          (one) =>
            `“${visible(one.title)}” is deleted; ${one.scores} scores are kept. Bring it back with \`bathyscribe assignment restore ${ref}\`.`,
        ),
      ),
    )
  assignment
    .command('restore <assignment>')
    .description('brings a deleted assignment back as it was')
    .addHelpText(
      'after',
      examples('assignment restore HYD-210/swath-planning', 'assignment restore NAV-120/running-fix'),
    )
    .action(
      job(async ({ client, show }, ref) =>
        show(
          await client.call('restoreAssignment', { params: { assignment: ref } }),
          (one) => `“${visible(one.title)}” is back, ${state(one.state)}.`,
        ),
      ),
    )
  assignment
    .command('accept <assignment> <rule>')
    .description('accepts a warning of preflight, with a reason')
    .requiredOption('--reason <text>', 'why it is acceptable; it is kept')
    .addHelpText(
      'after',
      examples(
        'assignment accept HYD-210/swath-planning category_set --reason "Counted by hand"',
        'assignment accept NAV-120/running-fix address_secure --reason "Inside our own network"',
      ),
    )
    .action(
      job<{ reason: string }>(async ({ client, options, show }, ref, rule) =>
        show(
          await client.call('acceptWarning', { params: { assignment: ref }, body: { rule, reason: options.reason } }),
          (one) => one.preflight.map(showRemark).join('\n'),
        ),
      ),
    )
}

/** Reads an address that was copied out of a tool. */
export function addAddressCommand(assignment: Command): void {
  assignment
    .command('address <course> <address>')
    .description(
      'reads an address copied out of a tool: whose session is in it, what is left without, whose tool it is',
    )
    .option('--keep <name...>', 'parameters to keep whatever they look like')
    .option('--drop <name...>', 'parameters to take out whatever they look like')
    .addHelpText(
      'after',
      examples(
        'assignment address NAV-120 "https://plots.example/plot/running-fix?edition=4&sid=q7Zk"',
        'assignment address NAV-120 "https://plots.example/plot/x?k=1" --keep k --json',
      ),
    )
    .action(
      job<{ keep?: string[]; drop?: string[] }>(async ({ client, options, show }, course, address) => {
        const { keep, drop } = options
        const answer = await client.call('readAddress', {
          params: { course },
          body: { address, ...(keep && { keep }), ...(drop && { drop }) },
        })
        show(answer, (one) => {
          const rows = one.parameters.map((each) => [
            each.kept ? paint('good', 'kept') : paint('look', 'out'),
            visible(each.name),
            visible(each.value.slice(0, 40)),
            each.reason,
          ])
          const tools =
            one.tools.map((tool) => tool.slug).join(', ') || paint('look', 'no tool of this course is known there')
          return `${rows.length > 0 ? `${table(['', 'parameter', 'value', 'why'], rows)}\n\n` : ''}${visible(one.cleaned)}\n${paint('quiet', 'tool')}  ${tools}${one.remarks.map((remark) => `\n${paint('quiet', remark)}`).join('')}`
        })
      }),
    )
}
