import { TOKEN_SCOPES, type TokenScope } from '@bathyscribe/contract'
import { text as ask, isCancel } from '@clack/prompts'
import { Option, type Command } from 'commander'
import { addAccountCommands } from './person-accounts.js'
import { addAuditCommand } from './person-audit.js'
import { addDataCommands } from './person-data.js'
import { addDoubleCommands } from './person-doubles.js'
import { addInviteCommand } from './person-invite.js'
import { addMailCommand } from './person-mail.js'
import { examples, job, optionsOf, show, wholeNumber } from '../terminal/command.js'
import { connect, connectAnonymously, serviceUrl, type GlobalOptions } from '../terminal/connect.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { visible } from '../terminal/output.js'
import { addRosterCommands } from './person-import.js'
import { readSecret } from '../terminal/secrets.js'
import { readSignIn, removeSignIn, writeSignIn } from '../terminal/sign-in-file.js'
import { terminal } from '../terminal/terminal.js'

interface SignInOptions {
  username?: string
  passwordFile?: string
  tokenFile?: string
  days?: number
  scope?: TokenScope[]
}

/** A browser's part: keeps the cookies of a session for as long as it takes to make a token. */
function cookieKeeper(): typeof fetch {
  const jar = new Map<string, string>()
  return async (address, init) => {
    const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ')
    const response = await fetch(address, {
      ...init,
      headers: { ...(init?.headers as Record<string, string>), cookie },
    })
    for (const line of response.headers.getSetCookie()) {
      const [, name, value] = /^([^=]+)=([^;]*)/.exec(line) ?? []
      if (name) jar.set(name, value ?? '')
    }
    return response
  }
}

async function signInByPassword(options: GlobalOptions & SignInOptions): Promise<{ token: string; username: string }> {
  const username = options.username ?? (await askFor('User name'))
  const password = await readSecret(options.passwordFile, `Password of ${username}`)
  let csrf = ''
  const client = connectAnonymously(options, () => (csrf ? { 'x-csrf-token': csrf } : {}), cookieKeeper())
  const session = await client.call('signIn', { body: { username, password } })
  csrf = session.csrfToken ?? ''
  const made = await client.call('createToken', {
    body: { name: 'command line', scopes: options.scope ?? [...TOKEN_SCOPES], expiresInDays: options.days ?? 30 },
  })
  await client.call('signOut', {})
  return { token: made.token, username: session.person.username }
}

async function askFor(message: string): Promise<string> {
  if (!terminal().isTTY.input) throw new Failure(`${message} is missing.`, EXIT.usage, 'Give it with --username.')
  const answer = await ask({ message })
  if (isCancel(answer)) throw new Failure('Nothing was done.', EXIT.usage)
  return answer
}

export function addPersonCommands(program: Command): void {
  const person = program.command('person').description('people, signing in, API tokens')
  addRosterCommands(person)
  addDoubleCommands(person)
  addDataCommands(person)
  addSignIn(person)
  addSignOut(person)
  addSetUp(person)
  addAccountCommands(person)
  addEnrol(person)
  addDrop(person)
  addInviteCommand(person)
  addMailCommand(person)
  addAuditCommand(person)
}

function addSignIn(person: Command): void {
  person
    .command('sign-in')
    .description('signs in by password or token, and keeps a token in your configuration folder')
    .option('--username <name>', 'asked for unless given')
    .option('--password-file <file>', 'reads the password from a file, or - for standard input')
    .option('--token-file <file>', 'keeps this API token instead of making one')
    .option('--days <n>', 'how long the kept token lasts, 1 to 366', wholeNumber)
    .addOption(new Option('--scope <scope...>', 'what the kept token may be used for').choices(TOKEN_SCOPES))
    .addHelpText(
      'after',
      examples(
        'person sign-in --username ingrid',
        'person sign-in --token-file - --url https://bathyscribe.skerrow.example',
      ),
    )
    .action(async (_: unknown, command: Command) => {
      const options = optionsOf<SignInOptions>(command)
      const url = serviceUrl(options)
      const { token } =
        options.tokenFile === undefined
          ? await signInByPassword(options)
          : { token: (await readSecret(options.tokenFile, 'API token')).trim() }
      const client = connectAnonymously(options, () => ({ authorization: `Bearer ${token}` }))
      const me = await client.call('whoAmI', {})
      const file = writeSignIn({ url, token, username: me.person.username })
      show(
        options,
        { url, username: me.person.username, scopes: me.scopes },
        () => `Signed in at ${url} as ${me.person.fullName} (${me.scopes.join(', ')}).\nThe token is kept in ${file}.`,
      )
    })
}

function addSignOut(person: Command): void {
  person
    .command('sign-out')
    .description('revokes the kept token and forgets it')
    .addHelpText('after', examples('person sign-out', 'person sign-out --quiet'))
    .action(async (_: unknown, command: Command) => {
      const options = optionsOf(command)
      if (!readSignIn()) return show(options, { signedOut: false }, () => 'You were not signed in.')
      try {
        await connect(options).call('signOut', {})
      } finally {
        removeSignIn()
      }
      show(options, { signedOut: true }, () => 'Signed out; the token is revoked.')
    })
}

function addSetUp(person: Command): void {
  person
    .command('set-up')
    .description('makes the first administrator with the code that the service printed')
    .requiredOption('--username <name>')
    .requiredOption('--full-name <name>')
    .option('--code-file <file>', 'reads the code from a file, or - for standard input')
    .option('--password-file <file>', 'reads the password from a file, or - for standard input')
    .addHelpText(
      'after',
      examples(
        'person set-up --username ingrid --full-name "Ingrid Valesdottir"',
        'person set-up --username ingrid --full-name "Ingrid Valesdottir" --code-file code.txt --password-file -',
      ),
    )
    .action(async (_: unknown, command: Command) => {
      const options = optionsOf<{ username: string; fullName: string; codeFile?: string; passwordFile?: string }>(
        command,
      )
      const code = await readSecret(options.codeFile, 'Set-up code')
      const password = await readSecret(options.passwordFile, 'Password for the new administrator')
      const made = await connectAnonymously(options).call('setUp', {
        body: { code, username: options.username, fullName: options.fullName, password },
      })
      show(
        options,
        made,
        () => `${made.fullName} is the first administrator. Sign in with \`bathyscribe person sign-in\`.`,
      )
    })
}

function addEnrol(person: Command): void {
  person
    .command('enrol <person> <course>')
    .description('puts a person into a course')
    .addOption(new Option('--as <role>').choices(['instructor', 'teaching_assistant', 'learner']).default('learner'))
    .addHelpText('after', examples('person enrol tomas HYD-210 --as instructor', 'person enrol aino HYD-210'))
    .action(
      job<{ as: 'instructor' | 'teaching_assistant' | 'learner' }>(async ({ client, options, show }, ref, course) => {
        const member = await client.call('enrol', {
          params: { course: course },
          body: { person: ref, role: options.as },
        })
        show(member, (m) => `${visible(m.person.fullName)} is ${m.role.replaceAll('_', ' ')} in ${course}.`)
      }),
    )
}

function addDrop(person: Command): void {
  person
    .command('drop <person> <course>')
    .description('drops a person from a course; scores are kept')
    .addHelpText('after', examples('person drop aino HYD-210', 'person drop aino HYD-210 --json'))
    .action(
      job(async ({ client, show }, ref, course) => {
        const member = await client.call('changeEnrolment', {
          params: { course: course, person: ref },
          body: { state: 'dropped' },
        })
        show(
          member,
          (m) =>
            `${visible(m.person.fullName)} is dropped from ${course}; launches and scores are refused from now on.`,
        )
      }),
    )
}
