import type { Client, Outline, UnitItem } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import { examples, job, wholeNumber } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { paint, proofLine, table, visible, zoned } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'

interface ItemOptions {
  page?: string
  text?: string
  tool?: string
  file?: string
  address?: string
  heading?: string
  assignment?: string
  title?: string
  draft?: boolean
  pin?: boolean
}

/** A course's outline, files and groups. */
export function addCourseOutlineCommands(course: Command): void {
  addOutline(course)
  addUnitAdd(course)
  addUnitChange(course)
  addUnitRemove(course)
  addItemAdd(course)
  addItemRemove(course)
  addFileCommands(course)
  addGroupCommands(course)
}

function addOutline(course: Command): void {
  course
    .command('outline <course>')
    .description('shows the units of a course and their contents')
    .addHelpText('after', examples('course outline HYD-210', 'course outline NAV-120 --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('showOutline', { params: { course: ref } }), showOutline),
      ),
    )
}

function addUnitAdd(course: Command): void {
  course
    .command('unit-add <course> <title>')
    .description('makes a unit at the end')
    .option('--publish', 'learners see it at once')
    .addHelpText(
      'after',
      examples('course unit-add HYD-210 "Planning a survey"', 'course unit-add NAV-120 "On the chart" --publish'),
    )
    .action(
      job<{ publish?: boolean }>(async ({ client, options, show }, ref, title) =>
        show(
          await client.call('addUnit', {
            params: { course: ref },
            body: { title, published: options.publish ?? false },
          }),
          (one) => `The unit “${visible(one.title)}” is made.`,
        ),
      ),
    )
}

function addUnitChange(course: Command): void {
  course
    .command('unit-change <course> <unit>')
    .description('renames, publishes, hides or moves a unit, by its title or number')
    .option('--title <title>')
    .option('--publish')
    .option('--hide')
    .option('--to <n>', 'moves it to this place, counted from 1', wholeNumber)
    .addHelpText(
      'after',
      examples('course unit-change HYD-210 "Planning a survey" --publish', 'course unit-change HYD-210 3 --to 1'),
    )
    .action(
      job<{ title?: string; publish?: boolean; hide?: boolean; to?: number }>(
        async ({ client, options, show }, ref, which) => {
          const unit = await findUnit(client, ref, which)
          const fields = {
            ...(options.title && { title: options.title }),
            ...((options.publish ?? options.hide) && { published: options.publish ?? false }),
          }
          if (Object.keys(fields).length > 0)
            await client.call('changeUnit', {
              params: { course: ref, unit: unit.id },
              body: { revision: unit.revision, ...fields },
            })
          if (options.to !== undefined) {
            const { units } = await client.call('showOutline', { params: { course: ref } })
            const order = units.filter((one) => one.id !== unit.id)
            order.splice(
              Math.max(0, options.to - 1),
              0,
              units.find((one) => one.id === unit.id)!,
            )
            await client.call('orderOutline', {
              params: { course: ref },
              body: { units: order.map((one) => ({ unit: one.id, items: one.items.map((item) => item.id) })) },
            })
          }
          show(await client.call('showOutline', { params: { course: ref } }), showOutline)
        },
      ),
    )
}

function addUnitRemove(course: Command): void {
  course
    .command('unit-remove <course> <unit>')
    .description('takes a unit away; its assignments stay, in no unit')
    .addHelpText('after', examples('course unit-remove HYD-210 "Planning a survey"', 'course unit-remove NAV-120 4'))
    .action(
      job(async ({ client, show }, ref, which) => {
        const unit = await findUnit(client, ref, which)
        await client.call('removeUnit', { params: { course: ref, unit: unit.id } })
        show(await client.call('showOutline', { params: { course: ref } }), showOutline)
      }),
    )
}

function addItemAdd(course: Command): void {
  course
    .command('item-add <course> <unit>')
    .description(
      'puts something into a unit: a page, a heading, a file, a web address, a tool without score, or an assignment that is there',
    )
    .option('--page <title>', 'a page of text; its text from --text, a file or - for standard input')
    .option('--text <file>', 'the page’s text, HTML or plain')
    .option('--heading <title>')
    .option('--address <address>', 'a web address; named by --title')
    .option('--file <name>', 'name of one of the course’s files')
    .option('--tool <tool>', 'a tool link that returns no score')
    .option('--assignment <assignment>', 'COURSE/short-name of one that is in no unit')
    .option('--title <title>')
    .option('--draft', 'learners do not see it yet')
    .option('--pin', 'also on the welcome page')
    .addHelpText(
      'after',
      examples(
        'course item-add HYD-210 "Lead line and rope" --heading "To read"',
        'course item-add HYD-210 1 --tool chandlery-shelf --title "Deck stores"',
      ),
    )
    .action(
      job<ItemOptions>(async ({ client, options, show }, ref, which) => {
        const unit = await findUnit(client, ref, which)
        const body = await itemBody(client, ref, options)
        await client.call('addUnitItem', {
          params: { course: ref },
          body: { unit: unit.id, published: !options.draft, pinned: options.pin ?? false, ...body },
        })
        show(await client.call('showOutline', { params: { course: ref } }), showOutline)
      }),
    )
}

function addItemRemove(course: Command): void {
  course
    .command('item-remove <course> <item>')
    .description('takes something out of its unit, by its title; an assignment stays, in no unit')
    .addHelpText('after', examples('course item-remove HYD-210 "To read"', 'course item-remove HYD-210 "Deck stores"'))
    .action(
      job(async ({ client, show }, ref, title) => {
        const { units } = await client.call('showOutline', { params: { course: ref } })
        const found = units.flatMap((one) => one.items).filter((one) => one.title === title || one.id === title)
        if (found.length !== 1)
          throw new Failure(
            found.length === 0 ? `Nothing is called “${title}”.` : `Several items are called “${title}”.`,
            EXIT.refused,
            'Give its identifier, as `--json` shows it.',
          )
        await client.call('removeUnitItem', { params: { course: ref, unitItem: found[0]!.id } })
        show(await client.call('showOutline', { params: { course: ref } }), showOutline)
      }),
    )
}

function addFileCommands(course: Command): void {
  course
    .command('files <course>')
    .description('lists the files of a course')
    .addHelpText('after', examples('course files HYD-210', 'course files HYD-210 --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listFiles', { params: { course: ref } }), ({ items }) =>
          items.length === 0
            ? `No files yet. Upload one with \`bathyscribe course file-add ${ref} FILE\`.`
            : table(
                ['name', 'kind', 'bytes', 'by', 'used'],
                items.map((one) => [
                  visible(one.name),
                  one.mediaType,
                  String(one.bytes),
                  visible(one.by ?? '–'),
                  String(one.uses),
                ]),
              ),
        ),
      ),
    )
  course
    .command('file-add <course> <file>')
    .description('uploads a file into a course')
    .option('--name <name>', 'what it is called there')
    .addHelpText(
      'after',
      examples('course file-add HYD-210 tides.pdf', 'course file-add HYD-210 t.txt --name "Tides at Skerrow.txt"'),
    )
    .action(
      job<{ name?: string }>(async ({ client, options, show }, ref, file) => {
        let bytes: Buffer
        try {
          bytes = readFileSync(file)
        } catch {
          throw new Failure(`The file ${file} cannot be read.`, EXIT.usage)
        }
        show(
          await client.upload(ref, new Blob([new Uint8Array(bytes)]), options.name ?? basename(file)),
          (one) => `“${visible(one.name)}” is there: ${one.mediaType}, ${one.bytes} bytes.`,
        )
      }),
    )
}

function addGroupCommands(course: Command): void {
  course
    .command('groups <course>')
    .description('lists the group sets of a course with their groups')
    .addHelpText('after', examples('course groups HYD-210', 'course groups HYD-210 --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listGroups', { params: { course: ref } }), ({ items }) =>
          items.length === 0
            ? 'No groups yet.'
            : table(
                ['set', 'group', 'learners', ''],
                items.flatMap((set) =>
                  set.groups.map((group, i) => [
                    i === 0 ? visible(set.name) : '',
                    visible(group.name),
                    String(group.members.length),
                    i === 0 && set.without > 0 ? paint('look', `${set.without} in none`) : '',
                  ]),
                ),
              ),
        ),
      ),
    )
  course
    .command('groups-add <course> <name>')
    .description('makes a set of groups: divided at random, or from a table with the columns group and person')
    .option('--random <n>', 'divides the learners into so many groups', wholeNumber)
    .option('--from <file>', 'CSV file, or - for standard input')
    .addHelpText(
      'after',
      examples('course groups-add HYD-210 Watches --random 4', 'course groups-add HYD-210 Boats --from boats.csv'),
    )
    .action(
      job<{ random?: number; from?: string }>(async ({ client, options, show }, ref, name) => {
        const body = {
          name,
          ...(options.random !== undefined && { groups: options.random }),
          ...(options.from && { table: readText(options.from) }),
        }
        show(
          await client.call('addGroupSet', { params: { course: ref }, body }),
          (set) => `“${visible(set.name)}” is made with ${set.groups.length} groups.`,
        )
      }),
    )
}

async function itemBody(client: Client, course: string, options: ItemOptions) {
  if (options.page !== undefined)
    return { kind: 'page' as const, title: options.page, body: options.text ? readText(options.text) : '' }
  if (options.heading !== undefined) return { kind: 'heading' as const, title: options.heading }
  if (options.address !== undefined)
    return { kind: 'address' as const, title: options.title ?? options.address, address: options.address }
  if (options.tool !== undefined)
    return { kind: 'tool_link' as const, tool: options.tool, ...(options.title && { title: options.title }) }
  if (options.assignment !== undefined) return { kind: 'assignment' as const, assignment: options.assignment }
  if (options.file !== undefined) {
    const { items } = await client.call('listFiles', { params: { course } })
    const file = items.find((one) => one.name === options.file || one.id === options.file)
    if (!file)
      throw new Failure(
        `The course has no file “${options.file}”.`,
        EXIT.refused,
        `List them with \`bathyscribe course files ${course}\`.`,
      )
    return { kind: 'file' as const, file: file.id }
  }
  throw new Failure(
    'Say what is to be put there.',
    EXIT.usage,
    'One of --page, --heading, --address, --file, --tool, --assignment.',
  )
}

async function findUnit(client: Client, course: string, which: string) {
  const { units } = await client.call('showOutline', { params: { course } })
  const unit =
    units.find((one) => one.title.toLowerCase() === which.toLowerCase() || one.id === which) ??
    (/^\d{1,3}$/.test(which) ? units[Number(which) - 1] : undefined)
  if (unit) return unit
  throw new Failure(`The course has no unit “${which}”.`, EXIT.refused, `See \`bathyscribe course outline ${course}\`.`)
}

const KINDS: Record<UnitItem['kind'], string> = {
  assignment: 'assignment',
  tool_link: 'tool, no score',
  page: 'page',
  file: 'file',
  address: 'address',
  heading: 'heading',
}

function showOutline(outline: Outline): string {
  if (outline.units.length === 0 && outline.loose.length === 0) return 'The course has no units yet.'
  const line = (item: UnitItem) => [
    '',
    item.kind === 'assignment' && !item.assignment?.counted ? 'not in total' : KINDS[item.kind],
    `${visible(item.title)}${item.pinned ? paint('quiet', ' (pinned)') : ''}`,
    item.tool?.slug ?? '',
    item.assignment?.points ?? '',
    item.assignment?.dueAt ? zoned(item.assignment.dueAt, outline.course.timeZone) : '',
    item.assignment && item.assignment.proof.length > 0 ? proofLine(item.assignment.proof) : '',
    item.published ? '' : paint('look', 'draft'),
  ]
  const head = (title: string, state = '') => [paint('strong', title), '', '', '', '', '', '', state]
  const rows = outline.units.flatMap((unit, i) => [
    head(`${i + 1} ${visible(unit.title)}`, unit.published ? '' : paint('look', 'draft')),
    ...unit.items.map(line),
  ])
  const loose = outline.loose.length > 0 ? [head('In no unit'), ...outline.loose.map(line)] : []
  return table(['unit', '', 'title', 'tool', 'points', 'due', 'proof', ''], [...rows, ...loose])
}
