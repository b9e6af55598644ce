import type { CatalogueItem, Client, MenuEntry } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job, more, paged, wholeNumber } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, paint, state, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'

interface EntryOptions {
  label?: string
  launchUrl?: string
  open?: 'frame' | 'window'
  for?: 'everyone' | 'instructors'
  hide?: boolean
  show?: boolean
  to?: number
}

const FOR = new Option('--for <whom>', 'who sees it').choices(['everyone', 'instructors'])
const OPEN = new Option('--open <where>').choices(['frame', 'window'])

/** Tools in a course: its catalogue and its menu. */
export function addCourseMenuCommands(course: Command): void {
  addCatalogue(course)
  addAddTool(course)
  addRemoveTool(course)
  addFirstEntry(course)
  addMenu(course)
  addMenuAdd(course)
  addMenuChange(course)
  addMenuRemove(course)
}

function addCatalogue(course: Command): void {
  paged(
    course.command('catalogue <course>').description('lists the tools that a course may use, with what they can do'),
  )
    .option('--search <text>', 'part of name or description')
    .addHelpText('after', examples('course catalogue HYD-210', 'course catalogue HYD-210 --search harbour --json'))
    .action(
      job<{ limit?: number; cursor?: string; search?: string }>(async ({ client, options, show }, ref) => {
        const { limit, cursor, search } = options
        show(
          await client.call('searchCatalogue', { params: { course: ref }, query: { limit, cursor, search } }),
          ({ items, next }) => showCatalogue(items) + more(next),
        )
      }),
    )
}

function addAddTool(course: Command): void {
  course
    .command('add-tool <course> <tool>')
    .description('adds a tool of the catalogue to a course, and to its menu when it is meant for that')
    .option('--key <key>', 'the course’s own consumer key, where the tool issues them per course')
    .option('--secret-file <file>', 'reads the course’s own secret from a file, or - for standard input')
    .addHelpText(
      'after',
      examples(
        'course add-tool HYD-210 harbour-desk',
        'course add-tool MET-130 plotting-table --key met-130 --secret-file -',
      ),
    )
    .action(
      job<{ key?: string; secretFile?: string }>(async ({ client, options, show }, ref, tool) => {
        const sharedSecret =
          options.key === undefined ? undefined : await readSecret(options.secretFile, 'Shared secret')
        const body = {
          tool,
          ...(options.key && { consumerKey: options.key }),
          ...(sharedSecret !== undefined && { sharedSecret }),
        }
        show(
          await client.call('addCourseTool', { params: { course: ref }, body }),
          (one) =>
            `${visible(one.tool.name)} is added${one.menuEntry ? `, and is in the menu as “${visible(one.menuEntry.label)}”` : ''}.`,
        )
      }),
    )
}

function addRemoveTool(course: Command): void {
  course
    .command('remove-tool <course> <tool>')
    .description('takes a tool out of a course that does not use it')
    .addHelpText(
      'after',
      examples('course remove-tool HYD-210 sextant-bench', 'course remove-tool MET-130 harbour-desk'),
    )
    .action(
      job(async ({ client, show }, ref, courseTool) => {
        await client.call('removeCourseTool', { params: { course: ref, courseTool } })
        show({ removed: courseTool }, () => `${courseTool} is out of ${ref}.`)
      }),
    )
}

function addFirstEntry(course: Command): void {
  course
    .command('first-entry <course> <tool>')
    .description('has the first entry made again, after it was undone at the tool’s end')
    .requiredOption('--again', 'an instructor has to open the tool again before learners may')
    .addHelpText(
      'after',
      examples('course first-entry HYD-210 harbour-desk --again', 'course first-entry NAV-120 harbour-desk --again'),
    )
    .action(
      job(async ({ client, show }, ref, courseTool) => {
        await client.call('forgetFirstEntry', { params: { course: ref, courseTool } })
        show({ forgotten: courseTool }, () => `${courseTool} waits for a first entry in ${ref} again.`)
      }),
    )
}

function addMenu(course: Command): void {
  course
    .command('menu <course>')
    .description('shows the course’s menu')
    .addHelpText('after', examples('course menu HYD-210', 'course menu MET-130 --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listMenu', { params: { course: ref } }), ({ items }) => showMenu(items)),
      ),
    )
}

function addMenuAdd(course: Command): void {
  course
    .command('menu-add <course> <tool>')
    .description('puts a tool into the course’s menu; menu entries return no scores')
    .option('--label <text>', 'as it is called there; some tools’ permissions depend on it')
    .option('--launch-url <address>')
    .addOption(FOR)
    .addOption(OPEN)
    .addHelpText(
      'after',
      examples(
        'course menu-add HYD-210 chandlery-shelf --label "Deck stores"',
        'course menu-add MET-130 harbour-desk --for instructors',
      ),
    )
    .action(
      job<EntryOptions>(async ({ client, options, show }, ref, tool) =>
        show(
          await client.call('addMenuEntry', { params: { course: ref }, body: { tool, ...entryFields(options) } }),
          (one) => showMenu([one]),
        ),
      ),
    )
}

function addMenuChange(course: Command): void {
  course
    .command('menu-change <course> <entry>')
    .description('renames, hides, shows or moves an entry, by its label or number')
    .option('--label <text>')
    .option('--launch-url <address>')
    .addOption(FOR)
    .addOption(OPEN)
    .option('--hide', 'nobody sees it but instructors here')
    .option('--show', 'shows it again')
    .option('--to <n>', 'moves it to this place, counted from 1', wholeNumber)
    .addHelpText(
      'after',
      examples('course menu-change HYD-210 "Harbour Desk" --label Harbour', 'course menu-change HYD-210 2 --to 1'),
    )
    .action(
      job<EntryOptions>(async ({ client, options, show }, ref, which) => {
        const entry = await findEntry(client, ref, which)
        const fields = {
          ...entryFields(options),
          ...(options.hide && { shown: false }),
          ...(options.show && { shown: true }),
        }
        if (Object.keys(fields).length > 0)
          await client.call('changeMenuEntry', {
            params: { course: ref, menuEntry: entry.id },
            body: { revision: entry.revision, ...fields },
          })
        if (options.to !== undefined) await move(client, ref, entry.id, options.to)
        show(await client.call('listMenu', { params: { course: ref } }), ({ items }) => showMenu(items))
      }),
    )
}

function addMenuRemove(course: Command): void {
  course
    .command('menu-remove <course> <entry>')
    .description('takes an entry out of the menu, by its label or number')
    .addHelpText('after', examples('course menu-remove HYD-210 Harbour', 'course menu-remove HYD-210 2'))
    .action(
      job(async ({ client, show }, ref, which) => {
        const entry = await findEntry(client, ref, which)
        await client.call('removeMenuEntry', { params: { course: ref, menuEntry: entry.id } })
        show(await client.call('listMenu', { params: { course: ref } }), ({ items }) => showMenu(items))
      }),
    )
}

function entryFields(options: EntryOptions) {
  return {
    ...(options.label !== undefined && { label: options.label }),
    ...(options.launchUrl !== undefined && { launchUrl: options.launchUrl }),
    ...(options.open && { documentTarget: options.open }),
    ...(options.for && { audience: options.for }),
  }
}

async function findEntry(client: Client, course: string, which: string): Promise<MenuEntry> {
  const { items } = await client.call('listMenu', { params: { course } })
  const labelled = items.filter((one) => one.label === which || one.id === which)
  const entry = labelled.length === 1 ? labelled[0] : /^\d{1,3}$/.test(which) ? items[Number(which) - 1] : undefined
  if (entry) return entry
  throw new Failure(
    labelled.length > 1 ? `Several entries are called “${which}”.` : `The menu has no entry “${which}”.`,
    EXIT.refused,
    'Give its number in `bathyscribe course menu`.',
  )
}

async function move(client: Client, course: string, id: string, to: number): Promise<void> {
  const { items } = await client.call('listMenu', { params: { course } })
  const entries = items.map((one) => one.id).filter((one) => one !== id)
  entries.splice(Math.max(0, to - 1), 0, id)
  await client.call('orderMenu', { params: { course }, body: { entries } })
}

function showMenu(items: readonly MenuEntry[]): string {
  if (items.length === 0) return 'The menu is empty.'
  return table(
    ['', 'label', 'tool', 'for', 'opens in', 'first opened'],
    items.map((one, i) => [
      `${i + 1}${one.shown ? '' : paint('look', ' hidden')}`,
      visible(one.label),
      one.tool.slug,
      one.audience,
      one.documentTarget,
      one.firstEntry.needed
        ? one.firstEntry.at
          ? `${visible(one.firstEntry.by ?? '')} ${moment(one.firstEntry.at)}`
          : paint('look', 'waiting')
        : '–',
    ]),
  )
}

function showCatalogue(items: readonly CatalogueItem[]): string {
  if (items.length === 0) return 'No tool of that name is offered to this course.'
  return table(
    ['short name', 'name', 'version', 'can', 'last proven', 'in the course', ''],
    items.map((one) => [
      one.tool.slug,
      visible(one.tool.name),
      one.version,
      one.features.join(', ') || '–',
      moment(one.lastProvenAt),
      one.added ? state('enabled').replace('enabled', 'added') : one.needsKeys ? 'wants its own keys' : 'not yet',
      one.lookAlikes > 0 ? paint('look', `${one.lookAlikes} others look like it`) : '',
    ]),
  )
}
