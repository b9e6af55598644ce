import { Option, type Command } from 'commander'
import { examples, job, wholeNumber } from '../terminal/command.js'
import { moment, paint, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'
import { seesOption, type Sees } from './tool-options.js'
import { showKeys } from './tool-show.js'

/** Secrets and keys of tools over time, the exchange sheet, and what a tool sees. */
export function addToolKeyCommands(tool: Command): void {
  addSecret(tool)
  addKeys(tool)
  addRotateSecret(tool)
  addSheet(tool)
  addDeployments(tool)
  addPreview(tool)
  addPlaces(tool)
}

function addSecret(tool: Command): void {
  tool
    .command('secret <tool>')
    .description('prints the shared secret; that it was shown is audited')
    .addHelpText('after', examples('tool secret knotwork-drills', 'tool secret knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('revealSecret', { params: { tool: ref } }), (one) => one.sharedSecret),
      ),
    )
}

function addKeys(tool: Command): void {
  tool
    .command('keys <tool>')
    .description('lists secrets and keys with their use')
    .option('--read', 'reads the tool’s keyset now')
    .option('--end <key>', 'ends an earlier secret before its time')
    .addHelpText('after', examples('tool keys knotwork-drills', 'tool keys sextant-bench --read'))
    .action(
      job<{ read?: boolean; end?: string }>(async ({ client, options, show }, ref) => {
        const params = { tool: ref }
        const keys = options.end
          ? await client.call('endSecret', { params: { ...params, id: options.end } })
          : await client.call(options.read ? 'readToolKeyset' : 'listToolKeys', { params })
        show(keys, showKeys)
      }),
    )
}

function addRotateSecret(tool: Command): void {
  tool
    .command('rotate-secret <tool>')
    .description('brings in a new secret beside the old one; one is made unless a file is given')
    .option('--secret-file <file>', 'reads the new secret from a file, or - for standard input')
    .option('--overlap <hours>', 'how long the old one is still taken', wholeNumber, 72)
    .addOption(
      new Option('--launch-with <which>', 'what launches are signed with until the tool uses the new one')
        .choices(['new', 'old'])
        .default('new'),
    )
    .addHelpText(
      'after',
      examples(
        'tool rotate-secret knotwork-drills --overlap 48',
        'tool rotate-secret knotwork-drills --secret-file - --launch-with old',
      ),
    )
    .action(
      job<{ secretFile?: string; overlap: number; launchWith: 'new' | 'old' }>(
        async ({ client, options, show }, ref) => {
          const sharedSecret =
            options.secretFile === undefined ? undefined : await readSecret(options.secretFile, 'New secret')
          const body = {
            overlapHours: options.overlap,
            launchesWith: options.launchWith,
            ...(sharedSecret !== undefined && { sharedSecret }),
          }
          show(await client.call('rotateSecret', { params: { tool: ref }, body }), (one) =>
            [
              ...(one.sharedSecret ? [`The new secret, shown this once: ${one.sharedSecret}`, ''] : []),
              showKeys(one.keys),
            ].join('\n'),
          )
        },
      ),
    )
}

function addSheet(tool: Command): void {
  tool
    .command('sheet <tool>')
    .description('prints the exchange sheet: what the tool’s end needs from us, and what we hold from it')
    .addHelpText('after', examples('tool sheet sextant-bench', 'tool sheet knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('showExchangeSheet', { params: { tool: ref } }), (sheet) => {
          const lines = (all: typeof sheet.weHold) => all.map((one) => `${one.label}: ${visible(one.value)}`).join('\n')
          return `What the tool’s end needs from us\n\n${lines(sheet.toolNeeds)}\n\nWhat we hold from the tool\n\n${lines(sheet.weHold)}`
        }),
      ),
    )
}

function addDeployments(tool: Command): void {
  tool
    .command('deployments <tool>')
    .description('lists the deployments of a tool of LTI 1.3, or gives a course one of its own')
    .option('--add <course>', 'a deployment for this course')
    .option('--label <text>')
    .addHelpText('after', examples('tool deployments sextant-bench', 'tool deployments sextant-bench --add NAV-120'))
    .action(
      job<{ add?: string; label?: string }>(async ({ client, options, show }, ref) => {
        const params = { tool: ref }
        if (options.add)
          await client.call('addDeployment', { params, body: { course: options.add, label: options.label ?? '' } })
        show(await client.call('listDeployments', { params }), ({ items }) =>
          table(
            ['deployment ID', 'for', 'label', 'made'],
            items.map((one) => [one.id, one.course?.code ?? 'all others', visible(one.label), moment(one.createdAt)]),
          ),
        )
      }),
    )
}

function addPreview(tool: Command): void {
  tool
    .command('preview <tool> <course>')
    .description('shows what a launch would say of one person')
    .option('--person <person>', 'user name or identifier; the first learner unless given')
    .addOption(seesOption('as it would be under another limit'))
    .addHelpText(
      'after',
      examples(
        'tool preview knotwork-drills HYD-210 --person niamh',
        'tool preview sextant-bench NAV-120 --sees opaque',
      ),
    )
    .action(
      job<{ person?: string; sees?: Sees }>(async ({ client, options, show }, ref, course) => {
        const query = { course, person: options.person, disclosure: options.sees }
        show(await client.call('previewIdentity', { params: { tool: ref }, query }), (one) =>
          [
            `Of ${visible(one.person.fullName)}, ${one.role.replaceAll('_', ' ')}, the tool is sent`,
            table(
              ['', ''],
              [
                ...one.sent.map((sent) => [sent.name, visible(sent.value)]),
                ...one.custom.map((sent) => [
                  `custom ${sent.name}`,
                  visible(sent.sent === sent.given ? sent.sent : `${sent.sent || '(empty)'}  from ${sent.given}`),
                ]),
              ],
            ),
            `Kept back: ${one.keptBack.join(', ') || 'nothing'}.`,
          ].join('\n'),
        )
      }),
    )
}

function addPlaces(tool: Command): void {
  tool
    .command('places <tool> <course>')
    .description('says where a tool shows in a course, to whom, and why')
    .addOption(new Option('--role <role>').choices(['instructor', 'learner']).default('learner'))
    .addHelpText(
      'after',
      examples('tool places harbour-desk HYD-210', 'tool places chandlery-shelf MET-130 --role instructor'),
    )
    .action(
      job<{ role: 'instructor' | 'learner' }>(async ({ client, options, show }, ref, course) => {
        const query = { course, role: options.role }
        show(await client.call('showToolPlaces', { params: { tool: ref }, query }), ({ items }) =>
          table(
            ['', 'place', 'as', 'because'],
            items.map((one) => [
              one.shows ? paint('good', '●') : paint('quiet', '○'),
              one.place.replaceAll('_', ' '),
              visible(one.label ?? '–'),
              visible(one.reason),
            ]),
          ),
        )
      }),
    )
}
