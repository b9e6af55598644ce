import type { Tool } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { collect, examples, job, type Job } from '../terminal/command.js'
import { addMoveAddressesCommands } from './tool-move-addresses.js'
import { addReplaceCommands } from './tool-replace.js'
import { requireConsent } from '../terminal/confirm.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { state, visible } from '../terminal/output.js'
import { seesOption, type Sees } from './tool-options.js'
import { showTool } from './tool-show.js'
import { terminal } from '../terminal/terminal.js'

/** Decisions about registrations: approval, offers, suspension, deletion, replacement. */
export function addToolDecisionCommands(tool: Command): void {
  addApprove(tool)
  addRefuse(tool)
  addOffer(tool)
  addStates(tool)
  addDelete(tool)
  addRestore(tool)
  addMoveAddressesCommands(tool)
  addReplaceCommands(tool)
}

function addApprove(tool: Command): void {
  tool
    .command('approve <tool>')
    .description('approves a registration that waits, or the change that a tool proposes')
    .option('--scope <scope>', 'grants this scope; may be given again; all that it asks for unless given', collect)
    .addOption(seesOption('what of a person the tool may see'))
    .addHelpText('after', examples('tool approve sextant-bench --sees name', 'tool approve sextant-bench --json'))
    .action(
      job<{ scope?: string[]; sees?: Sees }>(async ({ client, options, show }, ref) => {
        const one = await client.call('showTool', { params: { tool: ref } })
        const body = {
          revision: one.revision,
          ...(options.scope && { scopes: options.scope }),
          ...(options.sees && { disclosure: options.sees }),
        }
        show(
          await client.call(one.proposal ? 'acceptProposal' : 'approveTool', { params: { tool: ref }, body }),
          showTool,
        )
      }),
    )
}

function addRefuse(tool: Command): void {
  tool
    .command('refuse <tool>')
    .description('refuses a registration that waits, or the change that a tool proposes')
    .option('--reason <text>', 'kept in the audit log')
    .addHelpText(
      'after',
      examples('tool refuse sextant-bench', 'tool refuse sextant-bench --reason "asks for the roster"'),
    )
    .action(
      job<{ reason?: string }>(async ({ client, options, show }, ref) => {
        const one = await client.call('showTool', { params: { tool: ref } })
        const body = { revision: one.revision, reason: options.reason ?? '' }
        show(
          await client.call(one.proposal ? 'declineProposal' : 'refuseTool', { params: { tool: ref }, body }),
          (done) => `${visible(done.name)} is ${state(done.state)}.`,
        )
      }),
    )
}

function addOffer(tool: Command): void {
  tool
    .command('offer <tool> [courses...]')
    .description('says which courses may use a tool of the institution')
    .option('--all', 'all courses')
    .option('--none', 'no further course; existing links stay')
    .addHelpText('after', examples('tool offer harbour-desk HYD-210 NAV-120', 'tool offer harbour-desk --all'))
    .action(async (...given: unknown[]) => {
      // The courses come as one list, which the common wrapper passes on as it is.
      await job<{ all?: boolean; none?: boolean }>(async ({ client, options, show }, ref, ...rest) => {
        const courses = rest.flat()
        if ([options.all, options.none, courses.length > 0].filter(Boolean).length !== 1)
          throw new Failure('Name courses, or give --all or --none.', EXIT.usage)
        const { revision } = await client.call('showTool', { params: { tool: ref } })
        const offer = options.all ? 'all' : options.none ? 'none' : 'named'
        show(await client.call('offerTool', { params: { tool: ref }, body: { revision, offer, courses } }), showTool)
      })(...given)
    })
}

function addStates(tool: Command): void {
  for (const [verb, wanted, text] of STATES) {
    const command = tool
      .command(`${verb} <tool>`)
      .description(text)
      .addHelpText('after', examples(`tool ${verb} knotwork-drills`, `tool ${verb} knotwork-drills --json`))
    if (verb === 'suspend') command.option('--refuse-scores', 'scores are refused as well')
    command.action(job<{ refuseScores?: boolean }>(async (work, ref) => setState(work, ref, wanted)))
  }
}

function addDelete(tool: Command): void {
  tool
    .command('delete <tool>')
    .description('deletes a registration, after saying what depends on it; it can be restored for a while')
    .option('--yes', 'does not ask')
    .addHelpText(
      'after',
      examples('tool delete knotwork-drills-spare-key', 'tool delete knotwork-drills-spare-key --yes'),
    )
    .action(
      job<{ yes?: boolean }>(async ({ client, options, show }, ref) => {
        const impact = await client.call('showToolImpact', { params: { tool: ref } })
        const says = `${impact.published} published and ${impact.assignments - impact.published} draft assignments and ${impact.menuEntries} menu entries in ${impact.courses.length} courses can no longer be opened. ${impact.scores} results stay in gradebooks. It can be restored for ${impact.undoDays} days.`
        if (!options.yes) {
          terminal().say(`${says}\n`)
          await requireConsent('Delete it?', 'Nothing was deleted.', 'Add --yes to delete without being asked.')
        }
        show(
          await client.call('deleteTool', { params: { tool: ref } }),
          (one) =>
            `${visible(one.name)} is ${state(one.state)}. Bring it back with: bathyscribe tool restore ${one.slug}`,
        )
      }),
    )
}

function addRestore(tool: Command): void {
  tool
    .command('restore <tool>')
    .description('brings a deleted registration back as it was')
    .addHelpText(
      'after',
      examples('tool restore knotwork-drills-spare-key', 'tool restore knotwork-drills-spare-key --json'),
    )
    .action(
      job(async ({ client, show }, ref) => show(await client.call('restoreTool', { params: { tool: ref } }), showTool)),
    )
}

const STATES = [
  ['enable', 'enabled', 'enables a draft, or a suspended tool again'],
  [
    'suspend',
    'suspended',
    'refuses launches for now; scores of work already done are still taken unless told otherwise',
  ],
  ['retire', 'retired', 'ends its use for good; scores and wire entries are kept'],
] as const

async function setState(
  { client, options, show }: Job<{ refuseScores?: boolean }>,
  ref: string,
  wanted: (typeof STATES)[number][1],
): Promise<void> {
  const body = { state: wanted, ...(wanted === 'suspended' && { scoresWhileSuspended: !options.refuseScores }) }
  show(
    await client.call('setToolState', { params: { tool: ref }, body }),
    (one: Tool) =>
      `${visible(one.name)} is ${state(one.state)}; ${one.assignments} assignments and ${one.menuEntries} menu entries in ${one.courses} courses use it.`,
  )
}
