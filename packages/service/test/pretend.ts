import { Refusal } from '@bathyscribe/contract'

// For steps one by one, each given no more than it looks at: what a whole message comes to is shown over HTTP elsewhere.

export const NOW = new Date('2026-11-23T12:00:00Z')
const key = new Uint8Array(32).fill(7)
export const settings = { publicUrl: 'https://us.example', clockToleranceSeconds: 300, nonceMinutes: 10 }

/** A part of what a step is given, as if it were all. */
export const of = (what: unknown) => what as never
/** What a step says: the code of its refusal, or what it found. */
export const said = (found: unknown) => (found instanceof Refusal ? found.code : found)

/** A secret as it is held: sealed for one registration, so that it cannot be read as that of another. */
export const sealed = (secret: string, about: string) => Buffer.from(`${about}|${secret}`)
function openSealed(held: Buffer, about: string): string {
  const [whose, secret] = held.toString().split('|')
  if (whose !== about) throw new Error(`Sealed for ${whose}, not for ${about}.`)
  return secret!
}

/** A context whose records answer `found[name]` to every question of that name; what was asked is kept. */
export function pretend(found: Record<string, unknown> = {}) {
  const asked: [string, ...unknown[]][] = []
  const answers = new Proxy(
    {},
    {
      get:
        (_, name: string) =>
        (...given: unknown[]) => {
          asked.push([name, ...given])
          return Promise.resolve(found[name])
        },
    },
  )
  const context = {
    settings,
    clock: { now: () => NOW },
    keys: { hintKeys: [key], resultIdKey: key, unseal: (sealed: Buffer, about: string) => openSealed(sealed, about) },
    ids: { secret: () => 'secret-1', next: () => 'id-1' },
    keyring: { sign: (claims: unknown, type: string) => Promise.resolve(`${type} ${JSON.stringify(claims)}`) },
    keyUses: { note: (...all: unknown[]) => void asked.push(['noteKey', ...all]) },
    memory: {
      connectionUses: new Map<string, number>(),
      verifiedTokens: new Map<string, unknown>(),
      explained: new Map<string, unknown>(),
    },
    statements: answers,
    records: {
      connections: answers,
      tools: answers,
      pickings: answers,
      secrets: answers,
      rations: answers,
      diagnoses: answers,
    },
  }
  return { context: context as never, key, asked, names: () => asked.map(([name]) => name) }
}
