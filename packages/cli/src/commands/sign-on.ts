import {
  ADMITS,
  ADMITS_WORDS,
  MATCH_WORDS,
  MATCHES,
  TIED_BY_WORDS,
  type Admits,
  type Identity,
  type IdentityProvider,
  type Match,
  type SignOnChecked,
} from '@bathyscribe/contract'
import { InvalidArgumentError, Option, type Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { moment, pairs, paint, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'

/** Identity providers: by accounts of which people sign in here, and whose accounts are tied to them. */
export function addSignOnCommands(program: Command): void {
  const signOn = program
    .command('sign-on')
    .description('identity providers (OpenID Connect), and whose accounts are tied to them')
  addList(signOn)
  addShow(signOn)
  addAdd(signOn)
  addChange(signOn)
  addCheck(signOn)
  addRemove(signOn)
  addAccounts(signOn)
  addUntie(signOn)
}

interface Given {
  name?: string
  issuer?: string
  clientId?: string
  secretFile?: string
  publicClient?: boolean
  scopes?: string
  match?: Match
  matchClaim?: string
  admit?: Admits
  administrators?: { administratorClaim: string | null; administratorValue: string | null }
  on?: boolean
  off?: boolean
}

/** `CLAIM=VALUE`, or `none`. */
function claimAndValue(text: string): NonNullable<Given['administrators']> {
  if (text === 'none') return { administratorClaim: null, administratorValue: null }
  const at = text.indexOf('=')
  if (at < 1 || at === text.length - 1) throw new InvalidArgumentError('Write it as CLAIM=VALUE, or none.')
  return { administratorClaim: text.slice(0, at), administratorValue: text.slice(at + 1) }
}

function settable(command: Command): Command {
  return command
    .option('--secret-file <file>', 'the client secret; - reads standard input')
    .addOption(new Option('--public-client', 'the provider gave no secret').conflicts('secretFile'))
    .option('--scopes <scopes>', 'separated by spaces')
    .addOption(new Option('--match <how>', 'how people are found at their first sign-in').choices(MATCHES))
    .option('--match-claim <claim>', 'the claim that holds it; `usual` for the usual one')
    .addOption(new Option('--admit <whom>', 'who may sign in').choices(ADMITS))
    .option('--administrators <claim=value>', 'what makes an administrator of somebody, or none', claimAndValue)
    .option('--off', 'nobody may sign in by it for now')
}

/** Only what was said. */
function settingsOf({ name, issuer, clientId, scopes, match, matchClaim, admit, administrators, on, off }: Given) {
  return {
    ...(name !== undefined && { name }),
    ...(issuer !== undefined && { issuer }),
    ...(clientId !== undefined && { clientId }),
    ...(scopes !== undefined && { scopes }),
    ...(match && { match }),
    ...(matchClaim !== undefined && { matchClaim: matchClaim === 'usual' ? null : matchClaim }),
    ...(admit && { admits: admit }),
    ...administrators,
    ...((on ?? off) && { enabled: on === true }),
  }
}

/** The one that is held stays unless another is given. */
async function secretOf({ publicClient, secretFile }: Given): Promise<{ clientSecret?: string | null }> {
  if (publicClient) return { clientSecret: null }
  return secretFile === undefined ? {} : { clientSecret: await readSecret(secretFile, 'Client secret') }
}

function addList(signOn: Command): void {
  signOn
    .command('list')
    .description('lists identity providers')
    .addHelpText('after', examples('sign-on list', 'sign-on list --json'))
    .action(
      job(async ({ client, show }) =>
        show(await client.call('listIdentityProviders', {}), ({ items }) =>
          items.length === 0
            ? 'None: people sign in by user name and password.'
            : table(
                ['provider', 'name', 'issuer', 'sign-in', 'accounts', 'last used'],
                items.map((one) => [
                  one.handle,
                  visible(one.name),
                  visible(one.issuer),
                  one.enabled ? paint('good', 'on') : paint('look', 'off'),
                  String(one.people),
                  moment(one.lastAt),
                ]),
              ),
        ),
      ),
    )
}

function addShow(signOn: Command): void {
  signOn
    .command('show <provider>')
    .description('shows an identity provider, and the addresses that it has to be told')
    .addHelpText('after', examples('sign-on show skerrow', 'sign-on show skerrow --json'))
    .action(
      job(async ({ client, show }, provider) =>
        show(await client.call('showIdentityProvider', { params: { provider } }), showProvider),
      ),
    )
}

function addAdd(signOn: Command): void {
  settable(
    signOn
      .command('add <short-name>')
      .description('adds an identity provider, once its description was read')
      .requiredOption('--name <name>', 'as people know it: it stands on the button')
      .requiredOption('--issuer <address>', 'exactly as the provider writes it')
      .requiredOption('--client-id <id>', 'what the provider calls this service'),
  )
    .addHelpText(
      'after',
      examples(
        'sign-on add skerrow --name "Skerrow account" --issuer https://accounts.skerrow.example --client-id bathyscribe --secret-file -',
        'sign-on add skerrow --name "Skerrow account" --issuer https://accounts.skerrow.example --client-id bathyscribe --public-client --admit everybody',
      ),
    )
    .action(
      job<Given>(async ({ client, options, show }, handle) => {
        const { name = '', issuer = '', clientId = '' } = options
        const clientSecret = options.publicClient ? null : await readSecret(options.secretFile, 'Client secret')
        const body = { ...settingsOf(options), handle, name, issuer, clientId, clientSecret }
        show(await client.call('addIdentityProvider', { body }), showProvider)
      }),
    )
}

function addChange(signOn: Command): void {
  settable(
    signOn
      .command('change <provider>')
      .description('changes what is said; everything else stays')
      .option('--name <name>')
      .option('--issuer <address>', 'another issuer unties all accounts')
      .option('--client-id <id>'),
  )
    .addOption(new Option('--on', 'people may sign in by it again').conflicts('off'))
    .addHelpText(
      'after',
      examples(
        'sign-on change skerrow --admit everybody',
        'sign-on change skerrow --administrators groups=technologists',
      ),
    )
    .action(
      job<Given>(async ({ client, options, show }, provider) => {
        const params = { provider }
        const { revision } = await client.call('showIdentityProvider', { params })
        const body = { ...settingsOf(options), ...(await secretOf(options)), revision }
        show(await client.call('changeIdentityProvider', { params, body }), showProvider)
      }),
    )
}

function addCheck(signOn: Command): void {
  signOn
    .command('check <provider>')
    .description('asks the provider for its description and keys, and whether it knows our client; exit 1 if not')
    .addHelpText('after', examples('sign-on check skerrow', 'sign-on check skerrow --json'))
    .action(
      job(async ({ client, show }, provider) => {
        const checked = await client.call('checkIdentityProvider', { params: { provider } })
        show(checked, showChecked)
        if (checked.findings.some(({ state }) => state === 'bad')) throw new CheckFailed()
      }),
    )
}

function addRemove(signOn: Command): void {
  signOn
    .command('remove <provider>')
    .description('removes an identity provider; accounts stay, untied, and sessions by it end')
    .addHelpText('after', examples('sign-on remove skerrow', 'sign-on remove skerrow --quiet'))
    .action(
      job(async ({ client, show }, provider) => {
        await client.call('removeIdentityProvider', { params: { provider } })
        show(
          { removed: provider },
          () => 'Removed. Who has no password needs a link: `bathyscribe person invite NAME`.',
        )
      }),
    )
}

function addAccounts(signOn: Command): void {
  signOn
    .command('accounts <person>')
    .description('the accounts at identity providers that a person’s is tied to')
    .addHelpText('after', examples('sign-on accounts niamh', 'sign-on accounts niamh --json'))
    .action(
      job(async ({ client, show }, person) =>
        show(await client.call('listIdentities', { params: { person } }), showIdentities),
      ),
    )
}

function addUntie(signOn: Command): void {
  signOn
    .command('untie <person> <provider>')
    .description('unties a person’s account; sessions by that provider end')
    .addHelpText('after', examples('sign-on untie niamh skerrow', 'sign-on untie niamh skerrow --quiet'))
    .action(
      job(async ({ client, show }, person, provider) => {
        await client.call('untieIdentity', { params: { person, provider } })
        show(await client.call('listIdentities', { params: { person } }), showIdentities)
      }),
    )
}

const showProvider = (one: IdentityProvider) =>
  pairs([
    ['provider', one.handle],
    ['name', visible(one.name)],
    ['issuer', visible(one.issuer)],
    ['client ID', `${visible(one.clientId)}${one.hasSecret ? '' : ' (public)'}`],
    ['scopes', visible(one.scopes)],
    ['found', MATCH_WORDS[one.match] + (one.matchClaim === null ? '' : `, claim ${visible(one.matchClaim)}`)],
    ['admitted', ADMITS_WORDS[one.admits]],
    [
      'administrators',
      one.administratorClaim === null
        ? 'by no claim'
        : `${visible(one.administratorClaim)}=${visible(one.administratorValue ?? '')}`,
    ],
    ['sign-in', one.enabled ? paint('good', 'on') : paint('look', 'off')],
    ['accounts', `${one.people} tied; last used ${moment(one.lastAt)}`],
    ['redirect URI', one.redirectUri],
    ['after signing out', one.afterSignOutUri],
    ['logout tokens', one.signOutUri],
  ])

const SHAPES = { good: '●', look: '▲', bad: '✕' } as const

const showChecked = ({ findings }: SignOnChecked) =>
  table(
    ['looked at', 'found'],
    findings.map((one) => [paint(one.state, `${SHAPES[one.state]} ${one.what}`), visible(one.says)]),
  )

const showIdentities = ({ items }: { items: Identity[] }) =>
  items.length === 0
    ? 'Tied to no account at an identity provider.'
    : table(
        ['provider', 'subject', 'tied', 'since', 'last used', 'administrator'],
        items.map((one) => [
          one.provider.handle,
          visible(one.subject),
          TIED_BY_WORDS[one.tiedBy],
          moment(one.tiedAt),
          moment(one.lastAt),
          one.gaveAdministrator ? 'by its claims' : 'no',
        ]),
      )
