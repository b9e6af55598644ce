import type { Client, GradebookCategory } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, wholeNumber } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { table, visible } from '../terminal/output.js'

/** The categories of a course's gradebook. */
export function addCategoryCommands(course: Command): void {
  addCategories(course)
  addCategoryAdd(course)
  addCategoryChange(course)
  addCategoryRemove(course)
}

function addCategories(course: Command): void {
  course
    .command('categories <course>')
    .description('lists the categories of a gradebook, their weights and how many assignments they have')
    .addHelpText('after', examples('course categories HYD-210', 'course categories HYD-210 --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listCategories', { params: { course: ref } }), ({ items }) =>
          items.length === 0
            ? `The course has no categories. Make one with \`bathyscribe course category-add ${ref} NAME\`.`
            : table(
                ['category', 'weighs', 'assignments'],
                items.map((one) => [visible(one.name), weighs(one), String(one.assignments)]),
              ),
        ),
      ),
    )
}

function addCategoryAdd(course: Command): void {
  course
    .command('category-add <course> <name>')
    .description('makes a category at the end')
    .option('--weight <percent>', 'of the total; without any weights, points are added up')
    .addHelpText(
      'after',
      examples('course category-add HYD-210 Drills --weight 40', 'course category-add NAV-120 Reports'),
    )
    .action(
      job<{ weight?: string }>(async ({ client, options, show }, ref, name) =>
        show(
          await client.call('addCategory', { params: { course: ref }, body: { name, ...weightOf(options.weight) } }),
          (one) => `The category “${visible(one.name)}” is made; it weighs ${weighs(one)}.`,
        ),
      ),
    )
}

function addCategoryChange(course: Command): void {
  course
    .command('category-change <course> <name>')
    .description('renames, weighs or moves a category')
    .option('--name <name>', 'the new name')
    .option('--weight <percent>', 'of the total; “none” takes it off')
    .option('--to <n>', 'moves it to this place, counted from 1', wholeNumber)
    .addHelpText(
      'after',
      examples('course category-change HYD-210 Drills --weight 50', 'course category-change HYD-210 Drills --to 1'),
    )
    .action(
      job<{ name?: string; weight?: string; to?: number }>(async ({ client, options, show }, ref, which) => {
        const { id } = await find(client, ref, which)
        const body = {
          ...(options.name && { name: options.name }),
          ...weightOf(options.weight),
          ...(options.to !== undefined && { position: options.to }),
        }
        if (Object.keys(body).length === 0)
          throw new Failure('Nothing to change was named.', EXIT.usage, 'Give --name, --weight or --to.')
        show(
          await client.call('changeCategory', { params: { course: ref, category: id }, body }),
          (one) => `The category “${visible(one.name)}” weighs ${weighs(one)}.`,
        )
      }),
    )
}

function addCategoryRemove(course: Command): void {
  course
    .command('category-remove <course> <name>')
    .description('deletes a category; if it has assignments, say which category they go to')
    .option('--move-to <name>', 'another category, or “none”')
    .addHelpText(
      'after',
      examples('course category-remove HYD-210 Spare', 'course category-remove HYD-210 Spare --move-to Drills'),
    )
    .action(
      job<{ moveTo?: string }>(async ({ client, options, show }, ref, name) => {
        const { id } = await find(client, ref, name)
        const moveTo =
          options.moveTo === undefined || options.moveTo === 'none'
            ? options.moveTo
            : (await find(client, ref, options.moveTo)).id
        await client.call('removeCategory', {
          params: { course: ref, category: id },
          query: moveTo === undefined ? {} : { moveTo },
        })
        show({ removed: id }, () => `The category “${visible(name)}” is taken away.`)
      }),
    )
}

const weighs = ({ weight }: GradebookCategory) => (weight === null ? '–' : `${weight} %`)

const weightOf = (text: string | undefined) =>
  text === undefined ? {} : { weight: text === 'none' ? null : text.replace('%', '').trim() }

/** @throws Failure when the course has none of this name */
async function find(client: Client, course: string, name: string): Promise<GradebookCategory> {
  const { items } = await client.call('listCategories', { params: { course } })
  const found = items.find((one) => one.name.toLowerCase() === name.toLowerCase())
  if (found) return found
  throw new Failure(
    `The course has no category “${name}”.`,
    EXIT.refused,
    `It has ${items.map((one) => one.name).join(', ') || 'none'}; make one with \`bathyscribe course category-add\`.`,
  )
}
