import { readFileSync } from 'node:fs'
import { Refusal } from '@bathyscribe/contract'
import { describe, expect, it } from 'vitest'
import { messagesPage } from '@bathyscribe/yard/pages/messages-page'
import type { Context } from '../src/desk/context.js'
import { inbound, ROOMS, type About, type Refused, type Taken } from '../src/inbound/message.js'
import { run } from '../src/inbound/run.js'
import { ROWS } from '../src/inbound/table.js'
import type { MessageToWrite, MessageWritten } from '../src/records/statements/messages.js'

describe('the table of messages', () => {
  it.each(ROWS.map((row) => [row.name, row] as const))(
    '%s passes the rooms in their order and never turns back',
    (_, row) => {
      const places = row.steps.map(({ room }) => ROOMS.indexOf(room))
      expect(places).toEqual([...places].sort((a, b) => a - b))
      expect(row.steps.at(-1)!.room).toBe('take')
      expect(
        row.steps.every(({ name }) => /^[a-z]\w+$/i.test(name)),
        'each step has a name',
      ).toBe(true)
    },
  )

  it('is shown in docs/messages.md as it is', () => {
    expect(readFileSync(new URL('../../../docs/messages.md', import.meta.url), 'utf8')).toBe(messagesPage(ROWS))
  })

  it('verifies every message before anything is decided or done about it, but for who comes back by an address of ours', () => {
    const unverified = ROWS.filter(({ steps }) => !steps.some(({ room }) => room === 'verify')).map(({ name }) => name)
    expect(unverified).toEqual(['return'])
  })
})

type Call = { text: string }

/** A context that writes into a list, and answers what it is told to. */
function pretend(...answers: MessageWritten[]) {
  const entries: MessageToWrite[] = []
  const told: string[] = []
  const context = {
    clock: { now: () => new Date('2026-11-23T12:00:00Z') },
    statements: {
      writeMessage: (entry: MessageToWrite) => {
        entries.push(entry)
        return Promise.resolve(answers.shift() ?? { written: true, wireEntryId: `${entries.length}`, scoreId: null })
      },
    },
    changes: { publish: ({ kind }: { kind: string }) => void told.push(kind) },
    log: { warn: () => void told.push('warned') },
  } as unknown as Context
  return { context, entries, told }
}

const about = (): About => ({
  entry: { registrationId: 'tool', request: { url: '/x' } },
  tells: { taken: { kind: 'score', courseId: null }, refused: { kind: 'refusal', courseId: null } },
})
const refuse = (_: Context, __: object, { code }: Refusal, at: string): Refused<string> => ({
  answer: () => `${code} at ${at}`,
})
const begun = () => inbound<Call, string>('test', 'outcome', about, refuse)
const done = (): Taken<string> => ({ statement: 'Done.', answer: (id) => `done ${id}` })
const nonce = { value: 'n', expiresAt: new Date('2026-11-23T13:00:00Z') }
const used = () => new Refusal('oauth.nonce_used', 'n')

describe('a message on its way', () => {
  it('is given what earlier steps found out, and answered once its entry stands', async () => {
    const { context, entries, told } = pretend()
    const message = begun()
      .read(function letters(_, { text }: Call) {
        return { letters: text.length }
      })
      .may(async function few(_, { letters }) {
        return letters < 9 ? { few: true } : new Refusal('request.invalid')
      })
      .take(function counted(_, { letters }) {
        return { statement: `${letters} letters.`, answer: (id) => `entry ${id}` }
      })
    expect(message.steps).toEqual([
      { room: 'read', name: 'letters' },
      { room: 'may', name: 'few' },
      { room: 'take', name: 'counted' },
    ])
    expect(await run(context, message, { text: 'abc' })).toBe('entry 1')
    expect(entries).toMatchObject([
      { outcome: 'accepted', statement: '3 letters.', kind: 'outcome', registrationId: 'tool' },
    ])
    expect(told).toEqual(['score'])
  })

  it.each([
    ['says', () => new Refusal('score.not_a_learner', 'dropped')],
    ['throws', () => { throw new Refusal('score.not_a_learner', 'dropped') }],
    ['comes to', async () => Promise.reject(new Refusal('score.not_a_learner', 'dropped'))],
  ] as const)('ends at the refusal that a step %s: no later step is made, and the entry says why', async (_, step) => {
    const { context, entries, told } = pretend()
    const later: string[] = []
    const message = begun()
      .may(step as () => Refusal)
      .may(() => { later.push('later'); return {} })
      .take(done)
    expect(await run(context, message, { text: '' })).toBe('score.not_a_learner at may')
    expect(entries).toMatchObject([{ outcome: 'refused', code: 'score.not_a_learner', detail: 'dropped' }])
    expect(entries[0]!.statement).toContain('dropped')
    expect([later, told]).toEqual([[], ['refusal']])
  }) // oxfmt-ignore

  it('is refused in the form that held at that place, with what was known there', async () => {
    const message = begun()
      .identify((_, { text }) => ({ who: text }))
      .about((_, { who }) => ({ entry: { registrationId: who, request: {} } }))
      .refuse((_, { who }) => ({ answer: () => `not ${who}`, kept: { response: who } }))
      .verify(() => new Refusal('oauth.key_unknown'))
      .refuse(() => ({ answer: () => 'too late' }))
      .take(done)
    const { context, entries } = pretend()
    expect(await run(context, message, { text: 'me' })).toBe('not me')
    expect(entries).toMatchObject([{ registrationId: 'me', response: 'me' }])
  })

  it('uses its nonce up with whatever becomes of it; that it came before is what is wrong with it, whatever else is', async () => {
    const fresh = begun().fresh(() => ({ nonce }), used)
    const first = pretend()
    expect(await run(first.context, fresh.take(done), { text: '' })).toBe('done 1')
    expect(first.entries).toMatchObject([{ nonce }])
    for (const message of [fresh.take(done), fresh.may(() => new Refusal('score.not_a_learner')).take(done)]) {
      const { context, entries } = pretend({ written: false, why: 'nonce_used' })
      expect(await run(context, message, { text: '' })).toBe('oauth.nonce_used at fresh')
      expect(entries.map((one) => [one.code, one.nonce?.value])).toEqual([
        [message.steps.length === 2 ? null : 'score.not_a_learner', 'n'],
        ['oauth.nonce_used', undefined],
      ])
    }
  })

  it('whose ground was changed is read again, a few times and no more', async () => {
    const changed = { written: false, why: 'points_changed' } as const
    let read = 0
    const message = begun()
      .read(() => ({ read: ++read }))
      .take((_, so) => ({ statement: `${so.read}`, answer: (id) => `done ${id}` }))
    const twice = pretend(changed, { written: false, why: 'overtaken' })
    expect(await run(twice.context, message, { text: '' })).toBe('done 3')
    expect(twice.entries.map((one) => one.statement)).toEqual(['1', '2', '3'])
    const always = pretend(...Array.from({ length: 4 }, () => changed))
    expect(await run(always.context, message, { text: '' })).toBe('record.changed_meanwhile at take')
    expect(always.entries.map((one) => one.code)).toEqual([null, null, null, null, 'record.changed_meanwhile'])
    expect(always.told).toEqual(['refusal'])
  })

  it('that something newer stands for is refused, and not read again', async () => {
    const over = (): Taken<string> => ({ ...done(), isOver: async () => new Refusal('score_service.not_newer') })
    const { context, entries } = pretend({ written: false, why: 'overtaken' })
    expect(await run(context, begun().take(over), { text: '' })).toBe('score_service.not_newer at take')
    expect(entries.map((one) => one.outcome)).toEqual(['accepted', 'refused'])
  })

  it.each(['service.busy', 'request.too_many', 'service.fault'] as const)(
    'is refused by “%s” without an entry',
    async (code) => {
      const { context, entries, told } = pretend()
      expect(
        await run(
          context,
          begun()
            .may(() => new Refusal(code))
            .take(done),
          { text: '' },
        ),
      ).toBe(`${code} at may`)
      expect([entries, told]).toEqual([[], []])
    },
  )

  it.each(['outgoing.timeout', 'keyset.private_key'] as const)(
    'that the tool’s end is the cause of, as by “%s”, leaves one',
    async (code) => {
      const { context, entries } = pretend()
      expect(
        await run(
          context,
          begun()
            .verify(() => new Refusal(code))
            .take(done),
          { text: '' },
        ),
      ).toBe(`${code} at verify`)
      expect(entries).toMatchObject([{ outcome: 'refused', code }])
    },
  )

  it('that meets a fault of ours is not answered as if it were the sender’s', async () => {
    const { context, entries } = pretend()
    const message = begun()
      .read(() => {
        throw new TypeError('ours')
      })
      .take(done)
    await expect(run(context, message, { text: '' })).rejects.toThrow('ours')
    expect(entries).toEqual([])
  })

  it('is answered even where its cause cannot be found out, and not before what is to be noted of it is noted', async () => {
    const { context, told } = pretend()
    const message = inbound<Call, string>('test', 'outcome', about, () => ({
      note: async (id) => void told.push(`noted ${id}`),
      explain: () => Promise.reject(new Error('no cause')),
      answer: () => 'refused',
    }))
      .may(() => new Refusal('request.invalid'))
      .take(done)
    expect(await run(context, message, { text: '' })).toBe('refused')
    expect(told).toEqual(['noted 1', 'refusal', 'warned'])
  })

  it('of which nothing is to be kept leaves nothing, and nobody is told', async () => {
    const { context, entries, told } = pretend()
    const message = inbound<Call, string>('test', 'return', () => undefined, refuse)
      .identify(() => new Refusal('launch.return_unknown'))
      .take(done)
    expect(await run(context, message, { text: '' })).toBe('launch.return_unknown at identify')
    expect([entries, told]).toEqual([[], []])
  })

  it('is answered once what is made beside its entry is made, and fails with it', async () => {
    let signed = false
    const later = begun().take(() => ({
      statement: 'Signed.',
      beside: new Promise((resolve) => setImmediate(resolve)).then(() => (signed = true)),
      answer: () => `signed: ${signed}`,
    }))
    expect(await run(pretend().context, later, { text: '' })).toBe('signed: true')
    const never = begun().take(() => ({ ...done(), beside: Promise.reject(new Error('no key')) }))
    await expect(run(pretend().context, never, { text: '' })).rejects.toThrow('no key')
  })
})
