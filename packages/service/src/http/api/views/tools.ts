import type { IntakeAnswer, Tool, ToolMetadataView } from '@bathyscribe/contract'
import { SCOPES, type ToolMetadata } from '@bathyscribe/core/lti13'
import type { ReadIntake } from '../../../desk/tools/intake.js'
import type { ToolSummary } from '../../../records/tools.js'

export function toolView(tool: ToolSummary): Tool {
  const {
    id,
    slug,
    name,
    state,
    version,
    description,
    course,
    consumerKey,
    clientId,
    configurationUrl,
    initiationUrl,
    redirectUris,
  } = tool
  const { keysetUrl, scopes, features, placements, offer, offeredTo, keysPerCourse, firstEntry, scoresWhileSuspended } =
    tool
  const { pickerUrl, learnerText, exactTitles, framePermissions, framing } = tool
  const { launchUrl, signatureMethod, disclosure, documentTarget, customParameters, soundingParameters, note } = tool
  const { replacedBy, lookAlikes, revision, assignments, menuEntries, unitItems, courses, refusals } = tool
  return {
    id, slug, name, state, version, description, course, consumerKey, clientId, configurationUrl, initiationUrl, redirectUris,
    keysetUrl, scopes, features, placements, offer, offeredTo, keysPerCourse, firstEntry, scoresWhileSuspended,
    launchUrl, signatureMethod, disclosure, documentTarget, customParameters, soundingParameters, note,
    pickerUrl, learnerText, exactTitles, framePermissions, framing,
    replacedBy, lookAlikes, revision, assignments, menuEntries, unitItems, courses, refusals,
    publicKeys: tool.publicKeys?.length ?? 0,
    hasSecret: tool.secretSealed !== null,
    secretSetAt: tool.secretSetAt?.toISOString() ?? null,
    asked: tool.metadata && metadataView(tool.metadata),
    proposal: tool.proposal && { metadata: metadataView(tool.proposal), differences: differences(tool, tool.proposal) },
    deletedAt: tool.deletedAt?.toISOString() ?? null,
    createdAt: tool.createdAt.toISOString(),
    updatedAt: tool.updatedAt.toISOString(),
    lastLaunchAt: tool.lastLaunchAt?.toISOString() ?? null,
    lastScoreAt: tool.lastScoreAt?.toISOString() ?? null,
  } // oxfmt-ignore
}

export function intakeView({ metadata, ...read }: ReadIntake): IntakeAnswer {
  return { ...read, metadata: metadata && metadataView(metadata) }
}

export function metadataView(metadata: ToolMetadata): ToolMetadataView {
  const { keys: _keys, scopes, ...rest } = metadata
  return { ...rest, scopes: scopes.map((scope) => ({ scope, allows: SCOPES[scope] })) }
}

const COMPARED: readonly [string, (metadata: ToolMetadata) => string][] = [
  ['name', (one) => one.name],
  ['description', (one) => one.description],
  ['login initiation address', (one) => one.initiationUrl],
  ['redirect addresses', (one) => one.redirectUris.join('\n')],
  ['keyset address', (one) => one.keysetUrl ?? `${one.keys.length} keys given in place`],
  ['target link URI', (one) => one.targetLinkUri],
  ['scopes', (one) => one.scopes.map((scope) => SCOPES[scope]).join('\n')],
  ['messages', (one) => one.messages.map((message) => `${message.type} ${message.places.join(', ')}`).join('\n')],
  ['wants to see of people', (one) => one.claims.join(', ')],
  ['custom parameters', (one) => Object.entries(one.customParameters).map((pair) => pair.join('=')).join('\n')],
] // oxfmt-ignore

/** What a tool's proposal would change, against what it said of itself before. */
function differences(tool: Pick<ToolSummary, 'metadata'>, proposed: ToolMetadata) {
  return COMPARED.flatMap(([what, read]) => {
    const now = tool.metadata ? read(tool.metadata) : ''
    return now === read(proposed) ? [] : [{ what, now, proposed: read(proposed) }]
  })
}
