import { PEOPLE_PARTS, type Person, type PersonChange, type PersonPlaces } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import type { z } from 'zod'
import { examples, job, more, paged } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, pairs, paint, state, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'

/** Parts of all people as they are named on the command line. */
const PARTS: Record<string, (typeof PEOPLE_PARTS)[number]> = Object.fromEntries(
  PEOPLE_PARTS.map((part) => [part.replaceAll('_', '-'), part]),
)

/** Accounts: looked up, made, changed, closed. */
export function addAccountCommands(person: Command): void {
  addList(person)
  addShow(person)
  addCreate(person)
  addChange(person)
  addClose(person)
}

function showAccount(p: Person): string {
  return pairs([
    ['user name', p.username],
    ['name', visible(p.fullName)],
    ['email', p.email ?? '–'],
    ['site role', p.siteRole],
    ['identifier', p.id],
    ['account', p.closed ? 'closed' : 'open'],
    ['password', p.hasPassword ? 'set' : `none yet: \`bathyscribe person invite ${p.username}\``],
    ['since', moment(p.createdAt)],
  ])
}

function showPlaces({ courses, tools }: PersonPlaces): string {
  const inCourses = courses.map((one) => [
    one.course.code,
    visible(one.course.title),
    one.role.replaceAll('_', ' '),
    state(one.state),
    moment(one.droppedAt ?? one.since),
  ])
  const met = tools.map((one) => [
    one.tool.slug,
    one.disclosure.replaceAll('_', ' '),
    String(one.assignments),
    String(one.launches),
    moment(one.lastAt),
  ])
  return [
    courses.length === 0
      ? paint('quiet', 'In no course.')
      : table(['course', 'title', 'role', 'state', 'since'], inCourses),
    tools.length === 0
      ? paint('quiet', 'No tool has met them.')
      : table(['tool', 'may see', 'assignments', 'launches', 'last'], met),
  ].join('\n\n')
}

function addList(person: Command): void {
  paged(person.command('list').description('lists people, for administrators'))
    .option('--search <text>', 'part of a name, user name or email')
    .addOption(new Option('--only <part>', 'a part of them').choices(Object.keys(PARTS)))
    .addHelpText('after', examples('person list --search okafor', 'person list --only without-password --json'))
    .action(
      job<{ limit?: number; cursor?: string; search?: string; only?: string }>(async ({ client, options, show }) => {
        const { limit, cursor, search } = options
        const only = options.only === undefined ? undefined : PARTS[options.only]
        show(
          await client.call('listPeople', { query: { limit, cursor, search, only } }),
          ({ items, next }) =>
            table(
              ['user name', 'name', 'email', 'site role', 'account'],
              items.map((one) => [
                one.username,
                visible(one.fullName),
                one.email ?? '–',
                one.siteRole,
                one.closed ? state('closed') : 'open',
              ]),
            ) + more(next),
        )
      }),
    )
}

function addShow(person: Command): void {
  person
    .command('show [person]')
    .description('shows a person, or yourself')
    .addHelpText('after', examples('person show', 'person show tomas'))
    .action(
      job(async ({ client, show }, ref) => {
        const one =
          ref === undefined
            ? (await client.call('whoAmI', {})).person
            : await client.call('showPerson', { params: { person: ref } })
        // Where others are, is for those to know who may look others up.
        const places =
          ref === undefined ? undefined : await client.call('showPersonPlaces', { params: { person: ref } })
        show({ ...one, ...places }, () => [showAccount(one), ...(places ? [showPlaces(places)] : [])].join('\n\n'))
      }),
    )
}

function addCreate(person: Command): void {
  person
    .command('create <username>')
    .description('makes a person')
    .requiredOption('--full-name <name>')
    .option('--given-name <name>')
    .option('--family-name <name>')
    .option('--email <address>')
    .addOption(new Option('--site-role <role>').choices(['administrator', 'none']).default('none'))
    .option(
      '--password-file <file>',
      'reads a password from a file, or - for standard input; without one the person cannot sign in',
    )
    .addHelpText(
      'after',
      examples(
        'person create tomas --full-name "Tomas Okaforlind" --email tomas@skerrow.example',
        'person create maren --full-name "Maren Achterboom" --password-file -',
      ),
    )
    .action(
      job<{
        fullName: string
        givenName?: string
        familyName?: string
        email?: string
        siteRole: 'administrator' | 'none'
        passwordFile?: string
      }>(async ({ client, options, show }, username) => {
        const { fullName, givenName, familyName, email, siteRole, passwordFile } = options
        const password = passwordFile === undefined ? undefined : await readSecret(passwordFile, 'Password')
        const made = await client.call('createPerson', {
          body: {
            username: username,
            fullName,
            siteRole,
            ...(givenName && { givenName }),
            ...(familyName && { familyName }),
            ...(email && { email }),
            ...(password !== undefined && { password }),
          },
        })
        show(made, (p) => `${visible(p.fullName)} can be enrolled as “${p.username}”.`)
      }),
    )
}

interface ChangeOptions {
  fullName?: string
  givenName?: string
  familyName?: string
  email?: string
  siteRole?: 'administrator' | 'none'
}

function addChange(person: Command): void {
  person
    .command('change <person>')
    .description('changes what is known of a person, and whether they administer the site')
    .option('--full-name <name>')
    .option('--given-name <name>')
    .option('--family-name <name>')
    .option('--email <address>', 'or “none”')
    .addOption(new Option('--site-role <role>').choices(['administrator', 'none']))
    .addHelpText(
      'after',
      examples('person change tomas --email tomas@skerrow.example', 'person change maren --site-role administrator'),
    )
    .action(
      job<ChangeOptions>(async ({ client, options, show }, ref) => {
        const { fullName, givenName, familyName, email, siteRole } = options
        const body: z.input<typeof PersonChange> = {
          ...(fullName !== undefined && { fullName }),
          ...(givenName !== undefined && { givenName }),
          ...(familyName !== undefined && { familyName }),
          ...(email !== undefined && { email: email === 'none' ? null : email }),
          ...(siteRole && { siteRole }),
        }
        if (Object.keys(body).length === 0)
          throw new Failure('Nothing to change.', EXIT.usage, 'Say what: --full-name, --email, --site-role …')
        show(await client.call('changePerson', { params: { person: ref }, body }), showAccount)
      }),
    )
}

function addClose(person: Command): void {
  person
    .command('close <person>')
    .description('closes an account: its sessions and tokens end')
    .option('--open', 'opens it again')
    .addHelpText('after', examples('person close maren', 'person close maren --open'))
    .action(
      job<{ open?: boolean }>(async ({ client, options, show }, ref) => {
        const one = await client.call('changePerson', { params: { person: ref }, body: { closed: !options.open } })
        show(one, (p) => `The account of ${visible(p.fullName)} is ${p.closed ? 'closed' : 'open'}.`)
      }),
    )
}
