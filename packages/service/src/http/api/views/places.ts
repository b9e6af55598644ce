import type { CatalogueItem, MenuEntry } from '@bathyscribe/contract'
import type { CatalogueRow, MenuRow } from '../../../records/menus.js'

export function menuView(entry: MenuRow): MenuEntry {
  const { id, label, tool, launchUrl, customParameters, documentTarget, audience, shown, firstEntry, revision } = entry
  return {
    id,
    label,
    tool,
    launchUrl,
    customParameters,
    documentTarget,
    audience,
    shown,
    firstEntry: { ...firstEntry, at: firstEntry.at && new Date(firstEntry.at).toISOString() },
    revision,
  }
}

export function catalogueView(row: CatalogueRow): CatalogueItem {
  const {
    id,
    slug,
    name,
    state,
    version,
    description,
    features,
    framed,
    framePermissions,
    own,
    added,
    links,
    needsKeys,
    lookAlikes,
  } = row
  return {
    tool: { id, slug, name, state },
    version,
    description,
    features,
    framed,
    framePermissions,
    inMenu: row.placements.some((one) => one.place === 'course_menu'),
    own,
    added,
    links,
    needsKeys: needsKeys && !own,
    lookAlikes,
    lastProvenAt: row.lastProvenAt?.toISOString() ?? null,
  }
}
