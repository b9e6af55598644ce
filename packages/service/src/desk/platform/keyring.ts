import { Refusal } from '@bathyscribe/contract'
import { writeJws, type Claims, type PublicKey, type Sign, type TokenType } from '@bathyscribe/core/lti13'
import type { Clock } from '../../keys/ids.js'
import type { Keys } from '../../keys/key-file.js'
import { makeKey, signerOf } from '../../keys/rsa.js'
import type { Settings } from '../../settings/settings.js'
import type { Records, RecordsInside } from '../../records/index.js'
import { SEALED_FOR } from '../../records/key-mark.js'
import type { PlatformKey } from '../../records/secrets.js'
import { kidKey, type KeyUses } from '../../records/statements/key-use.js'

/**
 * The platform's own keys. The next key is published long before it signs anything, the previous one stays published for a while
 * after: tools that keep our keyset for hours never meet a token whose key they cannot find.
 */
export interface Keyring {
  /** Signs claims with the current key. @param type as its header says; `JWT` unless given */
  sign(claims: Claims, type?: TokenType): Promise<string>
  /** Current, next and previous keys, as the keyset shows them. */
  published(): Promise<PublicKey[]>
  list(): Promise<PlatformKey[]>
  /** Goes on to the next key, and makes another next one. @throws Refusal when another one has just done so */
  rotate(also?: InTheSame): Promise<void>
  /** Ends every key at once, the next one, too, which lay beside those that were stolen, and goes on with new ones. */
  endAll(also?: InTheSame): Promise<void>
}

/** What is written in the same transaction. */
type InTheSame = (inside: RecordsInside) => Promise<void>

/** How long a process may not notice what another one did to the keys. After a rotation the key it goes on signing with is still published. */
const LOOK_AGAIN_MS = 5000
const PREVIOUS_KEPT_MS = 7 * 24 * 3600_000

export function createKeyring(parts: { records: Records; keys: Keys; clock: Clock; keyUses: KeyUses }): Keyring {
  const { records, keys, clock, keyUses } = parts
  let known: { all: PlatformKey[]; kid: string; sign: Sign; readAt: number } | undefined
  let reading: Promise<NonNullable<typeof known>> | undefined

  async function load() {
    let all = await records.secrets.platformKeys()
    for (const state of ['current', 'next'] as const)
      if (!all.some((one) => one.state === state)) {
        await records.secrets.insertPlatformKey(await makeNew(parts, state))
        all = await records.secrets.platformKeys()
      }
    const current = all.find((one) => one.state === 'current')!
    known = {
      all,
      kid: current.kid,
      sign:
        known?.kid === current.kid
          ? known.sign
          : signerOf(keys.unseal(current.sealed, `${SEALED_FOR.platformKey}${current.kid}`)),
      readAt: performance.now(),
    }
    return known
  }

  async function present() {
    if (known && performance.now() - known.readAt < LOOK_AGAIN_MS) return known
    reading ??= load().finally(() => (reading = undefined))
    if (!known) return reading
    // Whoever has a key goes on with it while the records are asked, and when they do not answer.
    reading.catch(() => undefined)
    return known
  }

  /** What is published up to now, before it may go. */
  async function notePublished(inside: RecordsInside) {
    const all = await inside.secrets.platformKeys()
    await inside.publishedKeys.note(null, all.map((one) => one.publicKey), clock.now()) // oxfmt-ignore
  }

  return {
    async sign(claims, type) {
      const { kid, sign } = await present()
      keyUses.note('', kidKey(kid), clock.now())
      return writeJws(claims, kid, sign, type)
    },
    async published() {
      const { all } = await present()
      const now = clock.now()
      return all.filter((one) => one.endsAt === null || one.endsAt > now).map((one) => one.publicKey)
    },
    async list() {
      return (await load()).all
    },
    async rotate(also) {
      const { kid } = await load()
      const now = clock.now()
      await records.transaction(async (inside) => {
        await notePublished(inside)
        await inside.secrets.stepPlatformKeys(kid, now, new Date(now.getTime() + PREVIOUS_KEPT_MS))
        await also?.(inside)
      })
      await load()
    },
    async endAll(also) {
      const fresh = [await makeNew(parts, 'current'), await makeNew(parts, 'next')]
      await records.transaction(async (inside) => {
        await notePublished(inside)
        await inside.secrets.replacePlatformKeys(fresh)
        await also?.(inside)
      })
      await load()
    },
  }
}

async function makeNew(parts: { keys: Keys; clock: Clock }, state: 'current' | 'next'): Promise<PlatformKey> {
  const { kid, privatePem, publicKey } = await makeKey()
  const now = parts.clock.now()
  return {
    kid,
    sealed: parts.keys.seal(privatePem, `${SEALED_FOR.platformKey}${kid}`),
    publicKey,
    state,
    madeAt: now,
    currentSince: state === 'current' ? now : null,
    endsAt: null,
  }
}

/** Goes on to the next key when the current one has been used long enough. */
export async function rotateWhenDue(context: {
  keyring: Keyring
  clock: Clock
  settings: Pick<Settings, 'keyRotationDays'>
}): Promise<void> {
  const current = (await context.keyring.list()).find((one) => one.state === 'current')
  const age = context.clock.now().getTime() - (current?.currentSince?.getTime() ?? Infinity)
  if (age <= context.settings.keyRotationDays * 24 * 3600_000) return
  await context.keyring.rotate().catch((error: unknown) => {
    // Of several processes that find it due, one does it.
    if (!(error instanceof Refusal)) throw error
  })
}
