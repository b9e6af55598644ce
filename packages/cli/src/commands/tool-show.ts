import type { Tool, ToolCheck, ToolKeys } from '@bathyscribe/contract'
import { milliseconds, moment, pairs, paint, state, table, visible } from '../terminal/output.js'

const parameters = (all: Record<string, string>) =>
  Object.entries(all)
    .map(([name, value]) => visible(`${name}=${value}`))
    .join(', ') || '–'

/** A registration for people. */
export function showTool(tool: Tool): string {
  const of11: [string, string][] = [
    ['consumer key', visible(tool.consumerKey ?? '–')],
    ['shared secret', tool.hasSecret ? `set ${moment(tool.secretSetAt)}` : paint('bad', 'missing')],
  ]
  const of13: [string, string][] = [
    ['client ID', tool.clientId ?? '–'],
    ['initiation', tool.initiationUrl ?? '–'],
    ['redirect to', tool.redirectUris.join(', ') || '–'],
    ['keyset', tool.keysetUrl ?? `${tool.publicKeys} keys pasted`],
    ['granted', tool.scopes.map((one) => one.replace(/^.*\/(lti-[^/]+)\/scope\//, '$1 ')).join(', ') || '–'],
  ]
  return pairs([
    ['name', visible(tool.name)],
    ['short name', tool.slug],
    ['state', state(tool.state)],
    ['version', `LTI ${tool.version}`],
    ['for', tool.course ? `${tool.course.code} ${visible(tool.course.title)}` : 'the whole institution'],
    [
      'offered to',
      tool.course
        ? 'its course'
        : tool.offer === 'named'
          ? tool.offeredTo.map((one) => one.code).join(', ') || 'no course'
          : tool.offer === 'all'
            ? 'all courses'
            : 'no course',
    ],
    ...(tool.version === '1.3' ? of13 : of11),
    ['launch address', tool.launchUrl ?? '–'],
    ['can', tool.features.join(', ') || 'be opened'],
    ['shows at', tool.placements.map((one) => one.place.replaceAll('_', ' ')).join(', ') || '–'],
    ['personal data', tool.disclosure.replaceAll('_', ' ')],
    ['custom', parameters(tool.customParameters)],
    ['in a frame', tool.framePermissions.join(', ').replaceAll('_', ' ') || '–'],
    ['soundings send', parameters(tool.soundingParameters)],
    [
      'used by',
      `${tool.assignments} assignments, ${tool.menuEntries} menu entries, ${tool.unitItems} links in units, in ${tool.courses} courses`,
    ],
    ['last launch', moment(tool.lastLaunchAt)],
    ['last score', moment(tool.lastScoreAt)],
    ['refused, 7 days', tool.refusals ? paint('bad', String(tool.refusals)) : '0'],
    ...(tool.lookAlikes.length > 0
      ? [['looks like', paint('look', tool.lookAlikes.map((one) => one.slug).join(', '))] as [string, string]]
      : []),
    ...(tool.proposal
      ? [['proposes', paint('look', tool.proposal.differences.map((one) => one.what).join(', '))] as [string, string]]
      : []),
    ['revision', String(tool.revision)],
  ])
}

export function showCheck(check: ToolCheck): string {
  const rows = check.findings.map((one) => [state(one.verdict), one.check, visible(one.statement)])
  const remedies = check.findings.filter((one) => one.remedy).map((one) => `\n→ ${one.check}: ${one.remedy}`)
  return (
    table(['', 'check', 'found'], rows) +
    remedies.join('') +
    `\n${state(check.verdict)} in ${milliseconds(check.durationMs)}`
  )
}

export function showKeys(keys: ToolKeys): string {
  const secrets = keys.secrets.map((one) => [
    one.id,
    `secret, ${one.role}`,
    moment(one.setAt),
    moment(one.endsAt),
    String(one.uses),
    moment(one.lastUsedAt),
  ])
  const tools = (keys.keyset?.keys ?? []).map((one) => [
    one.kid.slice(0, 16),
    `tool’s key, ${one.bits} bits`,
    '–',
    '–',
    String(one.uses),
    moment(one.lastUsedAt),
  ])
  const keyset = keys.keyset
    ? `\n\nKeyset ${keys.keyset.address ?? '(pasted)'}, read ${keys.keyset.reads} times, last ${moment(keys.keyset.readAt)}${keys.keyset.failure ? paint('bad', ` ${keys.keyset.failure}`) : ''}`
    : ''
  return table(['key', 'what', 'set', 'ends', 'uses', 'last use'], [...secrets, ...tools]) + keyset
}
