import { Refusal } from '@bathyscribe/contract'
import type { FoundAccount, Match } from '@bathyscribe/core/identity'
import { LessThan, type EntityManager } from 'typeorm'
import { IdentityProviderRecord, IdentityRecord } from './entities/identities.js'
import { SessionRecord } from './entities/people.js'

/** A provider with who signs in by it. */
export interface ProviderRow {
  provider: IdentityProviderRecord
  people: number
  lastAt: Date | null
}

/** An account at a provider, with the provider. */
export interface IdentityRow {
  provider: { handle: string; name: string; enabled: boolean }
  subject: string
  tiedBy: 'match' | 'made' | 'person'
  tiedAt: Date
  lastAt: Date
  administratorSince: Date | null
}

const USED = `select provider_id as id, count(*)::int as people, max(last_at) as "lastAt" from identity group by provider_id`

const OF_SESSION = `select v.handle, v.name from session s join identity_provider v on v.id = s.provider_id where s.id = $1`

const OF_PERSON = `
select json_build_object('handle', v.handle, 'name', v.name, 'enabled', v.enabled) as provider, i.subject, i.tied_by as "tiedBy",
  i.tied_at as "tiedAt", i.last_at as "lastAt", i.administrator_since as "administratorSince"
from identity i join identity_provider v on v.id = i.provider_id where i.person_id = $1 order by v.name, v.id`

const ACCOUNT = `
select p.id, p.site_role as "siteRole", p.closed_at is not null as closed,
  exists (select 1 from identity i where i.person_id = p.id and i.provider_id = $2) as "tiedToOther"
from person p where not p.is_test_learner`
const BY_EMAIL = `${ACCOUNT} and lower(p.email) = $1 order by p.id limit 2`
const BY_USERNAME = `${ACCOUNT} and p.username = $1 order by p.id limit 2`
const BY_SOURCED_ID = `${ACCOUNT} and p.sourced_id = $1 order by p.id limit 2`

const LOCK_SUBJECT = `select pg_advisory_xact_lock(hashtext('bathyscribe subject'), hashtext($1))`

const NEW_ADMINISTRATORS = `
select json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) as person, v.name as provider, i.administrator_since as since
from identity i join person p on p.id = i.person_id join identity_provider v on v.id = i.provider_id
where i.administrator_since > $1 and p.site_role = 'administrator' order by i.administrator_since desc, p.id limit 20`

/** Identity providers, and whose accounts are tied to them. */
export class IdentityRecords {
  constructor(private readonly manager: EntityManager) {}

  /** All of them, by name: an institution has a handful. */
  async providers(): Promise<ProviderRow[]> {
    const providers = await this.manager.find(IdentityProviderRecord, { order: { name: 'ASC', id: 'ASC' } })
    const used = await this.manager.query<{ id: string; people: number; lastAt: Date }[]>(USED)
    const byId = new Map(used.map((one) => [one.id, one]))
    return providers.map((provider) => ({
      provider,
      people: byId.get(provider.id)?.people ?? 0,
      lastAt: byId.get(provider.id)?.lastAt ?? null,
    }))
  }

  async providerNames(): Promise<ReadonlyMap<string, string>> {
    const rows = await this.manager.query<{ id: string; name: string }[]>(`select id, name from identity_provider`)
    return new Map(rows.map(({ id, name }) => [id, name]))
  }

  /** The provider that a session was begun by. */
  async ofSession(sessionId: string): Promise<{ handle: string; name: string } | null> {
    const [row] = await this.manager.query<{ handle: string; name: string }[]>(OF_SESSION, [sessionId])
    return row ?? null
  }

  /** What strangers are shown. */
  choices(): Promise<IdentityProviderRecord[]> {
    return this.manager.find(IdentityProviderRecord, { where: { enabled: true }, order: { name: 'ASC', id: 'ASC' } })
  }

  providerById(id: string): Promise<IdentityProviderRecord | null> {
    return this.manager.findOneBy(IdentityProviderRecord, { id })
  }

  /** By identifier or short name. */
  providerByRef(ref: string): Promise<IdentityProviderRecord | null> {
    return this.manager.findOneBy(IdentityProviderRecord, [{ id: ref }, { handle: ref }])
  }

  /** The same of one that has to be there. @throws Refusal */
  async knownProvider(ref: string): Promise<IdentityProviderRecord> {
    const provider = await this.providerByRef(ref)
    if (!provider) throw new Refusal('sign_on.provider_not_found', ref.slice(0, 40))
    return provider
  }

  /** Nobody else changes it until the end of the transaction. */
  lockProvider(id: string): Promise<IdentityProviderRecord | null> {
    return this.manager.findOne(IdentityProviderRecord, { where: { id }, lock: { mode: 'pessimistic_write' } })
  }

  async insertProvider(provider: IdentityProviderRecord): Promise<void> {
    await this.manager.insert(IdentityProviderRecord, provider)
  }

  async updateProvider(id: string, change: Partial<IdentityProviderRecord>): Promise<void> {
    await this.manager.update(IdentityProviderRecord, { id }, change)
  }

  /** With its ties, and the sessions that were begun by it. */
  async removeProvider(id: string): Promise<void> {
    await this.manager.delete(IdentityProviderRecord, { id })
  }

  identity(providerId: string, subject: string): Promise<IdentityRecord | null> {
    return this.manager.findOneBy(IdentityRecord, { providerId, subject })
  }

  /** Holds all others who come as the same subject for the first time, until the end of the transaction. @returns what one of them has made meanwhile */
  async lockSubject(providerId: string, subject: string): Promise<IdentityRecord | null> {
    await this.manager.query(LOCK_SUBJECT, [`${providerId} ${subject}`])
    return this.identity(providerId, subject)
  }

  identityOf(providerId: string, personId: string): Promise<IdentityRecord | null> {
    return this.manager.findOneBy(IdentityRecord, { providerId, personId })
  }

  /** The accounts that have an identifier; no more than are needed to see that it is not one. */
  accounts(match: Exclude<Match, 'nobody'>, value: string, providerId: string): Promise<FoundAccount[]> {
    const text = match === 'email' ? BY_EMAIL : match === 'username' ? BY_USERNAME : BY_SOURCED_ID
    return this.manager.query<FoundAccount[]>(text, [value, providerId])
  }

  async tie(identity: IdentityRecord): Promise<void> {
    await this.manager.insert(IdentityRecord, identity)
  }

  async update(providerId: string, subject: string, change: Partial<IdentityRecord>): Promise<void> {
    await this.manager.update(IdentityRecord, { providerId, subject }, change)
  }

  async untie(providerId: string, personId: string): Promise<void> {
    await this.manager.delete(IdentityRecord, { providerId, personId })
  }

  async untieAll(providerId: string): Promise<void> {
    await this.manager.delete(IdentityRecord, { providerId })
  }

  /** The role is somebody's decision from now on, and no provider takes it back. */
  async forgetGivenRole(personId: string): Promise<void> {
    await this.manager.update(IdentityRecord, { personId }, { administratorSince: null })
  }

  ofPerson(personId: string): Promise<IdentityRow[]> {
    return this.manager.query<IdentityRow[]>(OF_PERSON, [personId])
  }

  /** Who became an administrator by claims since then, the newest first. */
  newAdministrators(
    since: Date,
  ): Promise<{ person: { id: string; fullName: string; username: string }; provider: string; since: Date }[]> {
    return this.manager.query(NEW_ADMINISTRATORS, [since])
  }

  /** Ends sessions that were begun by a provider: all, or those of one person, or the one that the provider calls so. @returns how many */
  async endSessions(
    providerId: string,
    which: { personId?: string | undefined; providerSession?: string | undefined; before?: Date } = {},
  ): Promise<number> {
    const { personId, providerSession, before } = which
    const done = await this.manager.delete(SessionRecord, {
      providerId,
      ...(personId !== undefined && { personId }),
      ...(providerSession !== undefined && { providerSession }),
      ...(before && { createdAt: LessThan(before) }),
    })
    return done.affected ?? 0
  }
}
