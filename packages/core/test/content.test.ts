import { differences, MOST_ITEMS, readMoment, type ContentItem } from '@bathyscribe/core/content'
import { pickerParameters, readContentItems } from '@bathyscribe/core/lti1'
import { CLAIM, DEEP_LINKING_CLAIM, deepLinkingClaims, readDeepLinkingAnswer } from '@bathyscribe/core/lti13'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const now = new Date('2026-11-23T12:00:00Z')
const graph = (...items: unknown[]) =>
  JSON.stringify({ '@context': 'http://purl.imsglobal.org/ctx/lti/v1/ContentItem', '@graph': items })
const read1 = (...items: unknown[]) => {
  const read = readContentItems(graph(...items), now)
  if ('code' in read) throw new Error(`${read.code} ${read.detail}`)
  return read
}
const facts = {
  platform: {
    guid: 'g',
    name: 'Skerrow',
    description: 'Skerrow',
    url: 'https://p.example',
    contactEmail: '',
    version: '1',
  },
  context: { id: 'c1', label: 'HYD 210', title: 'Hydrographic Surveying', sourcedId: null },
  person: { subject: 'u1', fullName: 'Tomas Okaforlind' },
  courseRole: 'instructor' as const,
  siteRole: 'none' as const,
  presentation: { target: 'frame' as const, returnUrl: 'https://p.example/lti/return/x', locale: 'en' },
  custom: { course: 'HYD 210' },
  returnUrl: 'https://p.example/lti/picked/k1',
  data: 'sealed',
  title: 'Hydrographic Surveying',
  text: '',
  multiple: true,
  onlyToolLinks: false,
}

describe('a request to a picker', () => {
  it('of Content-Item 1.0 says what may come back, where to, and names no link', () => {
    const sent = Object.fromEntries(pickerParameters(facts))
    expect(sent).toMatchObject({
      lti_message_type: 'ContentItemSelectionRequest',
      accept_multiple: 'true',
      accept_unsigned: 'false',
      auto_create: 'false',
      data: 'sealed',
      content_item_return_url: facts.returnUrl,
      context_id: 'c1',
      roles: 'Instructor',
      custom_course: 'HYD 210',
    })
    expect(Object.keys(sent)).not.toContain('resource_link_id')
    expect(Object.fromEntries(pickerParameters({ ...facts, onlyToolLinks: true }))['accept_media_types']).toBe(
      'application/vnd.ims.lti.v1.ltilink',
    )
  })

  it('of Deep Linking 2.0 carries its settings beside the claims of every message', () => {
    const claims = deepLinkingClaims({
      ...facts, issuer: 'https://p.example', clientId: 'c', deploymentId: 'd', nonce: 'n', nowSeconds: 1000, targetLinkUri: 'https://t.example/shelf', acceptsColumn: true,
    }) // oxfmt-ignore
    expect(claims).toMatchObject({
      [`${CLAIM}message_type`]: 'LtiDeepLinkingRequest',
      [`${CLAIM}deployment_id`]: 'd',
      [`${DEEP_LINKING_CLAIM}deep_linking_settings`]: {
        deep_link_return_url: facts.returnUrl,
        accept_types: ['ltiResourceLink', 'link', 'file', 'html', 'image'],
        accept_multiple: true,
        accept_lineitem: true,
        data: 'sealed',
      },
    })
    expect(claims).not.toHaveProperty([`${CLAIM}resource_link`])
  })
})

describe('items of Content-Item 1.0', () => {
  it('are read with title, points, settings and frame', () => {
    const { items, problems } = read1({
      '@type': 'LtiLinkItem', mediaType: 'application/vnd.ims.lti.v1.ltilink', url: 'https://t.example/launch', title: ' Bends\u0007 ', text: 'Three questions',
      custom: { drill: 'bends', n: 3 }, placementAdvice: { presentationDocumentTarget: 'window' }, icon: { '@id': 'https://t.example/i.png' },
      lineItem: { '@type': 'LineItem', label: 'Bends', assignedActivity: { activityId: 'b1' }, scoreConstraints: { normalMaximum: 30 } },
    }) // oxfmt-ignore
    expect(problems).toEqual([])
    expect(items[0]).toMatchObject({
      kind: 'tool_link', url: 'https://t.example/launch', title: 'Bends', custom: { drill: 'bends', n: '3' }, target: 'window', iconUrl: 'https://t.example/i.png',
      column: { label: 'Bends', points: '30', resourceId: 'b1' },
    }) // oxfmt-ignore
  })
  it('that are tool links without an address lead to the tool’s own', () => {
    expect(read1({ '@type': 'LtiLinkItem', title: 'x' }).items[0]).toMatchObject({ kind: 'tool_link', url: null })
    expect(read1({ '@type': 'ContentItem', mediaType: 'application/vnd.ims.lti.v1.ltilink' }).items[0]!.kind).toBe(
      'tool_link',
    )
  })
  it('belong each to its kind', () => {
    const { items } = read1(
      { '@type': 'ContentItem', mediaType: 'text/html', url: 'https://t.example/page#part', title: 'A page' },
      { '@type': 'ContentItem', mediaType: 'image/png', url: 'https://t.example/c.png' },
      { '@type': 'FileItem', mediaType: 'application/pdf', url: 'https://t.example/c.pdf' },
      { '@type': 'ContentItem', mediaType: 'text/html', text: '<p>Read this</p>' },
    )
    expect(items.map((one) => one.kind)).toEqual(['address', 'image', 'file', 'html'])
  })
  it.each([
    ['item.unknown_type', { '@type': 'SemaphoreItem' }],
    ['item.no_url', { '@type': 'FileItem', mediaType: 'application/pdf' }],
    ['item.address', { '@type': 'LtiLinkItem', url: 'javascript:alert(1)' }],
    ['item.address', { '@type': 'ContentItem', mediaType: 'text/html', url: 'data:text/html,x' }],
    ['item.expired', { '@type': 'FileItem', url: 'https://t.example/f', expiresAt: '2026-11-22T00:00:00Z' }],
    ['item.malformed', 'a text'],
  ])('%s is refused by name, and the others are still taken', (code, item) => {
    const { items, problems } = read1(item, { '@type': 'LtiLinkItem', title: 'good' })
    expect(items.map((one) => one.title)).toEqual(['good'])
    expect(problems).toEqual([expect.objectContaining({ place: 0, code })])
  })
  it('that cannot be read as a list at all are refused as a whole', () => {
    expect(readContentItems('', now)).toEqual({ items: [], problems: [] })
    expect(readContentItems('{', now)).toMatchObject({ code: 'picker.items_malformed' })
    expect(readContentItems('{"@graph": 3}', now)).toMatchObject({ code: 'picker.items_malformed' })
    expect(readContentItems(graph(...Array.from({ length: MOST_ITEMS + 1 }, () => ({}))), now)).toMatchObject({
      code: 'picker.too_many_items',
    })
  })
  it('never break the reader', () => {
    fc.assert(
      fc.property(
        fc.jsonValue(),
        (value) =>
          void readContentItems(
            JSON.stringify({ '@graph': [value, { '@type': 'LtiLinkItem', ...(value as object) }] }),
            now,
          ),
      ),
      { numRuns: 500 },
    )
    fc.assert(fc.property(fc.string(), (text) => void readContentItems(text, now)))
  })
})

const expected = {
  clientId: 'client',
  issuer: 'https://p.example',
  deploymentId: 'd1',
  nowSeconds: 1000,
  leewaySeconds: 60,
}
const answer = (items: unknown, change: Record<string, unknown> = {}) => ({
  iss: 'client', aud: 'https://p.example', iat: 990, exp: 1290, nonce: 'n1', [`${CLAIM}message_type`]: 'LtiDeepLinkingResponse', [`${CLAIM}version`]: '1.3.0',
  [`${CLAIM}deployment_id`]: 'd1', [`${DEEP_LINKING_CLAIM}content_items`]: items, [`${DEEP_LINKING_CLAIM}data`]: 'sealed', ...change,
}) // oxfmt-ignore
const read13 = (items: unknown, change = {}) => readDeepLinkingAnswer(answer(items, change), expected)

describe('an answer of Deep Linking 2.0', () => {
  it('is read with every item type, what it says to people and to the log', () => {
    const read = read13(
      [
        { type: 'ltiResourceLink', url: 'https://t.example/bench', title: 'Noon', custom: { e: '1' }, iframe: {}, lineItem: { scoreMaximum: 20, label: 'Noon', resourceId: 'r', tag: 't' },
          available: { startDateTime: '2026-12-01T08:00:00Z', endDateTime: '2026-12-20T08:00:00Z' }, submission: { endDateTime: '2026-12-10T08:00:00+01:00' } },
        { type: 'ltiResourceLink', title: 'At the tool’s own' },
        { type: 'link', url: 'https://t.example/read', window: {} },
        { type: 'file', url: 'https://t.example/f.pdf', expiresAt: '2027-01-01T00:00:00Z' },
        { type: 'html', html: '<p>x</p>' },
        { type: 'image', url: 'https://t.example/i.png' },
      ],
      { [`${DEEP_LINKING_CLAIM}msg`]: 'Done', [`${DEEP_LINKING_CLAIM}errorlog`]: 'one' },
    ) // oxfmt-ignore
    expect(read).toMatchObject({
      data: 'sealed', nonce: 'n1', message: 'Done', errorLog: 'one', problems: [],
      items: [
        { kind: 'tool_link', title: 'Noon', target: 'frame', column: { points: '20', resourceId: 'r', tag: 't' }, opensAt: '2026-12-01T08:00:00.000Z', dueAt: '2026-12-10T07:00:00.000Z', closesAt: '2026-12-20T08:00:00.000Z' },
        { kind: 'tool_link', url: null }, { kind: 'address', target: 'window' }, { kind: 'file' }, { kind: 'html', html: '<p>x</p>' }, { kind: 'image' },
      ],
    }) // oxfmt-ignore
  })
  it.each([
    ['picker.claim_wrong', { iss: 'somebody' }],
    ['picker.claim_wrong', { aud: ['https://other.example'] }],
    ['picker.claim_missing', { nonce: undefined }],
    ['picker.claim_missing', { exp: undefined }],
    ['picker.expired', { exp: 900 }],
    ['picker.expired', { iat: 2000 }],
    ['picker.wrong_deployment', { [`${CLAIM}deployment_id`]: 'd2' }],
    ['picker.wrong_message', { [`${CLAIM}message_type`]: 'LtiResourceLinkRequest' }],
    ['picker.claim_wrong', { [`${CLAIM}version`]: '1.2' }],
    ['picker.items_malformed', { [`${DEEP_LINKING_CLAIM}content_items`]: 'none' }],
    [
      'picker.too_many_items',
      { [`${DEEP_LINKING_CLAIM}content_items`]: Array.from({ length: MOST_ITEMS + 1 }, () => ({})) },
    ],
  ])('is refused as %s', (code, change) => {
    expect(read13([], change)).toMatchObject({ code })
  })
  it.each([
    ['item.unknown_type', { type: 'semaphore' }],
    ['item.no_url', { type: 'file' }],
    ['item.address', { type: 'link', url: 'javascript:alert(1)' }],
    ['item.no_html', { type: 'html' }],
    ['item.expired', { type: 'file', url: 'https://t.example/f', expiresAt: '1970-01-01T00:00:00Z' }],
  ])('%s is refused by name, and the others are still taken', (code, item) => {
    expect(read13([item, { type: 'ltiResourceLink', title: 'good' }])).toMatchObject({
      items: [{ title: 'good' }],
      problems: [{ place: 0, code }],
    })
  })
  it('never breaks the reader', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => void read13([value, { type: 'ltiResourceLink', ...(value as object) }])),
      { numRuns: 500 },
    )
  })
})

describe('what the tool says beside what was typed', () => {
  const item: ContentItem = {
    kind: 'tool_link', url: null, title: 'Noon', text: '', html: '', iconUrl: null, mediaType: null, target: 'frame', custom: {},
    column: { label: 'Noon', points: '20', resourceId: null, tag: null }, opensAt: null, dueAt: '2026-12-10T07:00:00.000Z', closesAt: null, expiresAt: null,
  } // oxfmt-ignore
  const typed = {
    title: 'Noon',
    points: '20.0',
    opensAt: null,
    dueAt: '2026-12-10T08:00:00+01:00',
    closesAt: null,
    documentTarget: 'frame',
  }
  it('is silent where both agree, in whatever form', () => {
    expect(differences(typed, item)).toEqual([])
  })
  it('marks what differs, and what only fills a gap', () => {
    expect(differences({ ...typed, title: '', points: '25', documentTarget: 'window' }, item)).toEqual([
      { field: 'title', typed: null, offered: 'Noon', fills: true },
      { field: 'points', typed: '25', offered: '20', fills: false },
      { field: 'documentTarget', typed: 'window', offered: 'frame', fills: false },
    ])
  })
})

it('moments are taken in the forms that tools send, and nothing else is', () => {
  expect(readMoment('2026-12-10')).toBe('2026-12-10T00:00:00.000Z')
  expect(readMoment('2026-12-10T08:00:00')).toBe('2026-12-10T08:00:00.000Z')
  expect(readMoment('2026-12-10T08:00:00.5+0100')).toBe('2026-12-10T07:00:00.500Z')
  for (const bad of ['tomorrow', '2026-13-01', 5, null, '2026-12-10T25:00Z', `${'9'.repeat(400)}`])
    expect(readMoment(bad)).toBeNull()
})
