import { describe, expect, it } from 'vitest'
import { readJson } from '@bathyscribe/core/intake'
import { readContentItems } from '@bathyscribe/core/lti1'
import { readJws } from '@bathyscribe/core/lti13'
import { Problem } from '@bathyscribe/core/result'

describe('a problem', () => {
  it('has a code and says where, and nothing else', () => {
    expect({ ...new Problem('table.empty', 'line 3') }).toEqual({ code: 'table.empty', detail: 'line 3' })
  })

  it('is no value that has a code of its own, whoever sent it', () => {
    const sent = { code: 'json.malformed', detail: 'says the other end' }
    const read = readJson(JSON.stringify(sent))
    expect(read).not.toBeInstanceOf(Problem)
    expect(read).toEqual({ value: sent })
    expect(structuredClone(new Problem('a', 'b'))).not.toBeInstanceOf(Problem)
  })

  it('of one item leaves the others, and keeps its place and title', () => {
    const items = [{ '@type': 'LtiLinkItem', code: 'item.expired', title: 'Kept' }, 7, { '@type': 'x', title: 'Left' }]
    expect(readContentItems(JSON.stringify({ '@graph': items }), new Date(0))).toMatchObject({
      items: [{ title: 'Kept', kind: 'tool_link' }],
      problems: [
        { place: 1, title: '', code: 'item.malformed', detail: 'not an object' },
        { place: 2, title: 'Left', code: 'item.unknown_type', detail: '“x”' },
      ],
    })
  })

  it('of an address says what kind it is, and that what is no text is none', () => {
    const told = (url: unknown) => {
      const read = readContentItems(JSON.stringify({ '@graph': [{ '@type': 'LtiLinkItem', url }] }), new Date(0))
      return read instanceof Problem ? read : read.problems
    }
    expect(told(7)).toMatchObject([{ code: 'item.address', detail: 'is not a text' }])
    expect(told('ftp://x.example/')).toMatchObject([{ code: 'item.address', detail: 'address.scheme: ftp:' }])
  })

  it('of what was read before is told on', () => {
    expect(readContentItems('{', new Date(0))).toMatchObject({ code: 'picker.items_malformed', detail: expect.stringMatching(/^json\.malformed: /) as string }) // oxfmt-ignore
    expect(readJws('a.b')).toBeInstanceOf(Problem)
  })
})
