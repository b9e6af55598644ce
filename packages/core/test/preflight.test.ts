import {
  PREFLIGHT_RULES,
  preflight,
  remarkWords,
  type PreflightFacts,
  type PreflightRemark,
} from '@bathyscribe/core/checks'
import type { ContentItem } from '@bathyscribe/core/content'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

const item: ContentItem = {
  kind: 'tool_link', url: 'https://tool.example/launch', title: 'Bends', text: '', html: '', iconUrl: null, mediaType: null, target: 'frame', custom: {},
  column: { label: 'Bends', points: '10', resourceId: 'bends', tag: null }, opensAt: null, dueAt: null, closesAt: null, expiresAt: null,
} // oxfmt-ignore

const sound: PreflightFacts = {
  now: new Date('2026-11-23T12:00:00Z'),
  platformIsSecure: true,
  assignment: {
    title: 'Bends', points: '10', counted: true, hasCategory: true, published: true, opensAt: null, dueAt: '2026-12-01T22:59:00.000Z', closesAt: null,
    documentTarget: 'frame', ownUrl: 'https://tool.example/launch', launchUrl: 'https://tool.example/launch', custom: { drill: 'bends' }, instructions: 'Tie them.',
    content: item, contentToolId: 't1',
  },
  unit: { title: 'Week 1', published: true },
  course: { startsAt: '2026-08-01T00:00:00.000Z', endsAt: '2026-12-31T00:00:00.000Z', learners: 24 },
  audience: null,
  tool: {
    id: 't1', name: 'Knotwork', state: 'enabled', version: '1.1', returnsScores: true, hasPicker: true, addresses: ['https://tool.example/launch'],
    framing: 'allowed', exactTitles: [], disclosure: 'name', asks: ['name'], firstEntry: 'none', used: true, menuLabel: null,
  },
  entered: true,
  sameTitle: 0,
  sameContent: [],
  lookAlike: null,
  toolColumns: [],
} // oxfmt-ignore

type Change = Partial<Omit<PreflightFacts, 'assignment' | 'tool'>> & {
  assignment?: Partial<PreflightFacts['assignment']>
  tool?: Partial<PreflightFacts['tool']>
}
const changed = ({ assignment, tool, ...rest }: Change): PreflightFacts => ({
  ...sound,
  ...rest,
  assignment: { ...sound.assignment, ...assignment },
  tool: { ...sound.tool, ...tool },
})

/** For each rule: what fires it, and something near it that does not. */
const CASES: Record<string, { fires: Change[]; not: Change[] }> = {
  points_above_zero: { fires: [{ assignment: { points: '0', content: null } }], not: [{ assignment: { points: '0', counted: false, content: null } }] },
  points_as_tool: { fires: [{ assignment: { points: '12' } }], not: [{ assignment: { points: '10.0' } }, { assignment: { points: '12', content: { ...item, column: null } } }] },
  category_set: { fires: [{ assignment: { hasCategory: false } }], not: [{ assignment: { hasCategory: false, counted: false } }] },
  dates_in_order: {
    fires: [{ assignment: { opensAt: '2026-12-02T00:00:00Z' } }, { assignment: { closesAt: '2026-11-30T00:00:00Z' } }],
    not: [{ assignment: { opensAt: '2026-11-20T00:00:00Z', closesAt: '2026-12-02T00:00:00Z' } }],
  },
  dates_in_course: { fires: [{ assignment: { dueAt: '2027-12-01T00:00:00Z' } }], not: [{ assignment: { dueAt: '2027-12-01T00:00:00Z' }, course: { startsAt: null, endsAt: null, learners: 3 } }] },
  dates_as_tool: {
    fires: [{ assignment: { content: { ...item, dueAt: '2026-12-08T22:59:00.000Z' } } }, { assignment: { dueAt: null, content: { ...item, dueAt: '2026-12-08T22:59:00.000Z' } } }],
    not: [{ assignment: { content: { ...item, dueAt: '2026-12-01T22:59:00.000Z' } } }],
  },
  unit_published: { fires: [{ unit: { title: 'Week 1', published: false } }], not: [{ unit: null }] },
  published_in_unit: { fires: [{ assignment: { published: false } }], not: [{ assignment: { published: false }, unit: null }] },
  content_chosen: {
    fires: [{ assignment: { content: null, ownUrl: null, custom: {} } }],
    not: [{ assignment: { content: null, ownUrl: null, custom: {} }, tool: { hasPicker: false } }, { assignment: { content: null, ownUrl: null } }],
  },
  content_of_tool: { fires: [{ assignment: { contentToolId: 't2' } }], not: [{ assignment: { contentToolId: 't2', content: null } }] },
  address_of_tool: {
    fires: [{ assignment: { ownUrl: 'https://elsewhere.example/x' } }],
    not: [{ assignment: { ownUrl: 'https://sets.tool.example/x' } }, { assignment: { ownUrl: 'https://tool.example:8443/x' } }],
  },
  launch_address_usable: { fires: [{ assignment: { launchUrl: null } }, { assignment: { launchUrl: 'javascript:alert(1)' } }], not: [{ assignment: { launchUrl: 'https://other.example/' } }] },
  address_secure: { fires: [{ assignment: { launchUrl: 'http://tool.example/' } }, { assignment: { launchUrl: 'http://127.0.0.1.tool.example/' } }, { assignment: { launchUrl: 'http://localhost.tool.example/' } }], not: [{ assignment: { launchUrl: 'http://127.0.0.1:9101/' } }] },
  secure_in_frame: { fires: [{ assignment: { launchUrl: 'http://tool.example/' } }], not: [{ assignment: { launchUrl: 'http://tool.example/', documentTarget: 'window' } }, { platformIsSecure: false, assignment: { launchUrl: 'http://tool.example/' } }] },
  session_parameters: { fires: [{ assignment: { ownUrl: 'https://tool.example/set?id=4&PHPSESSID=abc' } }], not: [{ assignment: { ownUrl: 'https://tool.example/set?id=4' } }] },
  frame_allowed: { fires: [{ tool: { framing: 'refused' } }], not: [{ tool: { framing: 'refused' }, assignment: { documentTarget: 'window' } }, { tool: { framing: 'unknown' } }] },
  window_said: { fires: [{ assignment: { documentTarget: 'window' } }], not: [{ assignment: { documentTarget: 'window', instructions: 'It opens in a window of its own.' } }] },
  title_as_tool_wants: {
    fires: [{ tool: { exactTitles: ['BENDS'] } }, { tool: { exactTitles: ['Deck stores'] } }],
    not: [{ tool: { exactTitles: ['Bends', 'Deck stores'] } }],
  },
  title_alone: { fires: [{ sameTitle: 1 }, { sameTitle: 2 }], not: [{ sameTitle: 0 }] },
  tool_look_alike: { fires: [{ lookAlike: { name: 'Knotwork (old)', used: 2 } }], not: [{ lookAlike: null }] },
  same_content: { fires: [{ sameContent: ['Other bends'], tool: { version: '1.3' } }], not: [{ sameContent: [] }] },
  told_apart: { fires: [{ sameContent: ['Other bends'] }], not: [{ sameContent: ['Other bends'], tool: { version: '1.3' } }] },
  one_column: { fires: [{ toolColumns: ['Bends (tool)'] }], not: [{ toolColumns: [] }] },
  menu_bypass: { fires: [{ tool: { menuLabel: 'Knots' } }], not: [{ tool: { menuLabel: 'Knots' }, assignment: { counted: false } }] },
  tool_returns_scores: { fires: [{ tool: { returnsScores: false } }], not: [{ tool: { returnsScores: false }, assignment: { counted: false } }] },
  identity_enough: { fires: [{ tool: { asks: ['name', 'email'] } }, { tool: { disclosure: 'opaque' } }], not: [{ tool: { asks: ['name', 'email'], disclosure: 'name_and_email' } }] },
  groups_filled: { fires: [{ audience: { groups: [{ name: 'A', members: 0 }], people: 0, reached: 24 } }], not: [{ audience: { groups: [{ name: 'A', members: 24 }], people: 0, reached: 24 } }] },
  everyone_reached: { fires: [{ audience: { groups: [{ name: 'A', members: 20 }], people: 0, reached: 20 } }], not: [{ audience: { groups: [], people: 3, reached: 3 } }] },
  first_entry_made: { fires: [{ tool: { firstEntry: 'link' }, entered: false }, { tool: { firstEntry: 'course' }, entered: false }], not: [{ tool: { firstEntry: 'link' }, entered: true }] },
  key_used: { fires: [{ tool: { used: false } }], not: [{ tool: { used: true } }] },
  registration_enabled: { fires: [{ tool: { state: 'suspended' } }], not: [{ tool: { state: 'enabled' } }] },
  learner_can_open: {
    fires: [{ assignment: { closesAt: '2026-11-22T00:00:00Z', dueAt: null } }, { course: { startsAt: null, endsAt: null, learners: 0 } }, { audience: { groups: [], people: 0, reached: 0 } }],
    not: [{ assignment: { published: false, closesAt: '2026-11-22T00:00:00Z', dueAt: null }, unit: null }],
  },
} // oxfmt-ignore

describe('preflight', () => {
  it('has nothing to say of a sound assignment', () => {
    expect(preflight(sound)).toEqual([])
  })

  it('has a case that fires it and one that does not for every rule, and no rule without', () => {
    expect(Object.keys(CASES).sort()).toEqual(PREFLIGHT_RULES.map((rule) => rule.code).sort())
  })

  for (const rule of PREFLIGHT_RULES) {
    it.each(CASES[rule.code]!.fires.map((change, i) => [i + 1, change] as const))(
      `${rule.code} speaks in case %i`,
      (_, change) => {
        const remark = preflight(changed(change)).find((one) => one.rule === rule.code)
        expect(remark).toMatchObject({ verdict: rule.severity, field: rule.field })
        // What is kept of it is enough to tell it.
        const words = remarkWords(JSON.parse(JSON.stringify(remark)) as PreflightRemark)
        expect(words.statement).toMatch(/^[\p{L}\p{N}“].*\.$/u)
        expect(words.statement).not.toMatch(/undefined|\bnull\b|\[object/)
        expect(words.remedy).toMatch(/^[A-Z].*\.$/)
      },
    )
    it.each(CASES[rule.code]!.not.map((change, i) => [i + 1, change] as const))(
      `${rule.code} is silent in case %i`,
      (_, change) => {
        expect(preflight(changed(change)).map((one) => one.rule)).not.toContain(rule.code)
      },
    )
  }

  it('names what stops publishing first', () => {
    const verdicts = preflight(changed({ assignment: { hasCategory: false, launchUrl: null } })).map(
      (one) => one.verdict,
    )
    expect(verdicts).toEqual([...verdicts].sort())
    expect(verdicts[0]).toBe('fail')
  })

  it('is documented rule by rule, and nothing else is', () => {
    const page = readFileSync(new URL('../../../docs/preflight.md', import.meta.url), 'utf8')
    const rows = [...page.matchAll(/^\| `([a-z_]+)` \| (\w+) \| (\w+) \| (.*) \|$/gm)].map((row) => row.slice(1, 5))
    expect(rows).toEqual(PREFLIGHT_RULES.map((rule) => [rule.code, rule.severity, rule.field, rule.demands]))
  })
})
