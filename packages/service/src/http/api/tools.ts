import type { toolOperations } from '@bathyscribe/contract'
import { Refusal } from '@bathyscribe/contract'
import { toolCheckView } from './views/soundings.js'
import { registerTool } from '../../desk/tools/register-tool.js'
import { intakeView, toolView } from './views/tools.js'
import { inText } from './views/moments.js'
import { ownTool, toolScope, visibleTool } from '../../desk/identity/access.js'
import type { Context } from '../../desk/context.js'
import { endKeys, rotateKeys } from '../../desk/platform/rotate-keys.js'
import { changeTool, setToolState } from '../../desk/tools/change-tool.js'
import { checkTool } from '../../desk/tools/check-tool.js'
import { acceptProposal, approveTool, declineProposal, offerTool, refuseTool } from '../../desk/tools/decide.js'
import { addDeployment, listDeployments } from '../../desk/tools/deployments.js'
import { deleteTool, restoreTool } from '../../desk/tools/end-tool.js'
import {
  listAddressMoves,
  moveAddresses,
  previewAddressMove,
  undoAddressMove,
} from '../../desk/tools/move-addresses.js'
import { listReplacements, previewReplacement, replaceTool, undoReplacement } from '../../desk/tools/replace-tool.js'
import { exchangeSheet } from '../../desk/tools/exchange-sheet.js'
import { readIntake } from '../../desk/tools/intake.js'
import { previewIdentity, toolPlaces } from '../../desk/tools/preview.js'
import { endSecret, revealSecret, rotateSecret, toolKeys } from '../../desk/tools/secrets.js'
import { inviteTool, showInvitation } from '../../desk/tools/invitations.js'
import { kidKey } from '../../records/statements/key-use.js'
import type { Handlers } from './routes.js'

type KeyCalls =
  | 'showExchangeSheet' | 'revealSecret' | 'rotateSecret' | 'endSecret' | 'listToolKeys' | 'readToolKeyset'
  | 'listDeployments' | 'addDeployment' | 'listPlatformKeys' | 'rotatePlatformKeys' | 'endPlatformKeys' // oxfmt-ignore

/** Registrations. */
export function toolHandlers(context: Context): Omit<Pick<Handlers, keyof typeof toolOperations>, KeyCalls> {
  const { records, clock, settings } = context
  const show = async (id: string) => toolView(await records.tools.summary(id, clock.now()))

  return {
    readIntake: async ({ caller, body }) => intakeView(await readIntake(context, caller.actor, body)),
    listTools: async ({ caller, query }) => {
      const courseId = query.course === undefined ? undefined : (await records.courses.byRef(query.course)).id
      const scope = await toolScope(records, caller.actor)
      if (query.state !== undefined && !scope.seesAll && ['waiting', 'deleted'].includes(query.state))
        return { items: [], next: null }
      const page = await records.tools.list(scope, clock.now(), { ...query, courseId })
      return { ...page, items: page.items.map(toolView) }
    },
    registerTool: async ({ caller, body }) => show((await registerTool(context, caller.actor, body)).id),
    inviteTool: ({ caller, body }) => inviteTool(context, caller.actor, body),
    showInvitation: ({ caller, params }) => showInvitation(context, caller.actor, params.id),
    showTool: async ({ caller, params }) => show((await visibleTool(records, caller.actor, params.tool)).id),
    changeTool: async ({ caller, params, body }) => show(await changeTool(context, caller.actor, params.tool, body)),
    setToolState: async ({ caller, params, body }) =>
      show(await setToolState(context, caller.actor, params.tool, body)),
    approveTool: async ({ caller, params, body }) => show(await approveTool(context, caller.actor, params.tool, body)),
    refuseTool: async ({ caller, params, body }) => show(await refuseTool(context, caller.actor, params.tool, body)),
    acceptProposal: async ({ caller, params, body }) =>
      show(await acceptProposal(context, caller.actor, params.tool, body)),
    declineProposal: async ({ caller, params, body }) =>
      show(await declineProposal(context, caller.actor, params.tool, body)),
    offerTool: async ({ caller, params, body }) => show(await offerTool(context, caller.actor, params.tool, body)),
    showToolImpact: async ({ caller, params }) => ({
      ...(await records.impact.of((await ownTool(records, caller.actor, params.tool)).id)),
      undoDays: settings.undoDays,
    }),
    deleteTool: async ({ caller, params }) => show(await deleteTool(context, caller.actor, params.tool)),
    restoreTool: async ({ caller, params }) => show(await restoreTool(context, caller.actor, params.tool)),
    replaceTool: async ({ caller, params, body }) => show(await replaceTool(context, caller.actor, params.tool, body)),
    previewReplacement: ({ params, body }) => previewReplacement(context, params.tool, body),
    listReplacements: async ({ params }) => ({ items: await listReplacements(context, params.tool) }),
    undoReplacement: ({ caller, params }) => undoReplacement(context, caller.actor, params.tool, params.id),
    previewAddressMove: ({ params, body }) => previewAddressMove(context, params.tool, body),
    moveAddresses: ({ caller, params, body }) => moveAddresses(context, caller.actor, params.tool, body),
    listAddressMoves: async ({ params }) => ({ items: await listAddressMoves(context, params.tool) }),
    undoAddressMove: ({ caller, params }) => undoAddressMove(context, caller.actor, params.tool, params.id),
    checkTool: async ({ caller, params }) =>
      toolCheckView(await checkTool(context, await ownTool(records, caller.actor, params.tool))),
    showToolPlaces: async ({ caller, params, query }) => ({
      items: await toolPlaces(context, caller.actor, params.tool, query),
    }),
    previewIdentity: ({ caller, params, query }) => previewIdentity(context, caller.actor, params.tool, query),
  }
}

/** What the two ends hold of each other: secrets, keysets, deployments, and the platform's own keys. */
export function toolKeyHandlers(context: Context): Pick<Handlers, KeyCalls> {
  const { records, keyring, settings } = context
  const keysOf = async (id: string) => toolKeys(context, await records.tools.byId(id))

  async function platformKeys() {
    const [keys, uses] = await Promise.all([keyring.list(), records.secrets.uses('')])
    return {
      keysetAddress: `${settings.publicUrl}/lti/keyset`,
      keys: keys.map(({ kid, state, madeAt, currentSince, endsAt }) => {
        const use = uses.find((one) => one.key === kidKey(kid))
        return {
          ...inText({ kid, state, madeAt, currentSince, endsAt, lastUsedAt: use?.lastAt ?? null }),
          uses: use?.uses ?? 0,
        }
      }),
    }
  }

  return {
    showExchangeSheet: async ({ caller, params }) =>
      exchangeSheet(context, await ownTool(records, caller.actor, params.tool)),
    revealSecret: async ({ caller, params }) => ({
      sharedSecret: await revealSecret(context, caller.actor, params.tool),
    }),
    rotateSecret: async ({ caller, params, body }) => {
      const sharedSecret = await rotateSecret(context, caller.actor, params.tool, body)
      return { sharedSecret, keys: await keysOf((await records.tools.byRef(params.tool)).id) }
    },
    endSecret: async ({ caller, params }) => {
      await endSecret(context, caller.actor, params.tool, params.id)
      return keysOf((await records.tools.byRef(params.tool)).id)
    },
    listToolKeys: async ({ caller, params }) => keysOf((await ownTool(records, caller.actor, params.tool)).id),
    readToolKeyset: async ({ caller, params }) => {
      const tool = await ownTool(records, caller.actor, params.tool)
      if (tool.version !== '1.3') throw new Refusal('deployment.not_1_3', tool.slug)
      await context.toolKeysets.readNow(tool)
      return keysOf(tool.id)
    },
    listDeployments: async ({ caller, params }) => ({
      items: inText(await listDeployments(context, (await ownTool(records, caller.actor, params.tool)).id)),
    }),
    addDeployment: async ({ caller, params, body }) =>
      inText(await addDeployment(context, caller.actor, params.tool, body)),
    listPlatformKeys: platformKeys,
    rotatePlatformKeys: async ({ caller, body }) => {
      await rotateKeys(context, caller.actor, body.reason)
      return platformKeys()
    },
    endPlatformKeys: async ({ caller, body }) => {
      await endKeys(context, caller.actor, body.reason)
      return platformKeys()
    },
  }
}
