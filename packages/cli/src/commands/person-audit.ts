import { auditChanges, type AuditEntry } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, more, paged } from '../terminal/command.js'
import { dateIn } from '../terminal/dates.js'
import { writeOut } from '../terminal/out-file.js'
import { moment, paint, table, visible } from '../terminal/output.js'

interface AuditOptions {
  limit?: number
  cursor?: string
  search?: string
  by?: string
  course?: string
  since?: string
  until?: string
  csv?: string
}

const WIDEST = 40

/** What differs between before and after, a field a line. */
function changed(entry: AuditEntry): string {
  const short = (text: string | null) => (text === null ? '–' : visible(text.slice(0, WIDEST)))
  return auditChanges(entry)
    .map(
      ({ name, before, after }) => `${visible(name)}: ${before === null ? '' : `${short(before)} → `}${short(after)}`,
    )
    .join('\n')
}

/** `person audit`: what was changed by whom. */
export function addAuditCommand(person: Command): void {
  paged(person.command('audit').description('lists what was changed by whom, newest first'))
    .option('--search <text>', 'part of what was done, or of what it was done to')
    .option('--by <person>', 'only what this person did')
    .option('--course <course>')
    .option('--since <date>', 'from this day or moment on, UTC')
    .option('--until <date>', 'up to this day or moment, UTC')
    .option('--csv <file>', 'writes it as CSV with what was before and after, the newest 10,000; - for standard output')
    .addHelpText(
      'after',
      examples('person audit --by tomas --since 2026-11-01', 'person audit --search secret --csv audit.csv'),
    )
    .action(
      job<AuditOptions>(async ({ client, options, show }) => {
        const { limit, cursor, search, by, course, since, until, csv } = options
        const query = {
          search,
          person: by,
          course,
          since: since === undefined ? undefined : (dateIn('UTC', since, 'beginning') ?? undefined),
          until: until === undefined ? undefined : (dateIn('UTC', until, 'end') ?? undefined),
        }
        if (csv !== undefined) {
          const { text, rows, more: hasMore } = await client.call('reportAudit', { query })
          if (writeOut(csv, text))
            show({ file: csv, rows, more: hasMore }, () => `${rows} entries written to ${csv}${hasMore ? '; there are older ones: narrow it down with --until' : ''}.`) // oxfmt-ignore
          return
        }
        show(
          await client.call('listAudit', { query: { ...query, limit, cursor } }),
          ({ items, next }) =>
            (items.length === 0
              ? 'Nothing like that was done.'
              : table(
                  ['when', 'who', 'what', 'of', 'before and after'],
                  items.map((one) => [
                    moment(one.at),
                    visible(one.person?.fullName ?? 'the service'),
                    one.action,
                    paint('quiet', one.subject),
                    paint('quiet', changed(one)),
                  ]),
                )) + more(next),
        )
      }),
    )
}
