import { MoreThan, Not, type EntityManager } from 'typeorm'
import { ApiTokenRecord, SessionRecord } from './entities/people.js'

/** Sessions, API tokens and the first set-up code. */
export class SignInRecords {
  constructor(private readonly manager: EntityManager) {}

  async insertSession(session: SessionRecord): Promise<void> {
    await this.manager.insert(SessionRecord, session)
  }

  /** Sessions that are open: neither over nor unused since `idleSince`. */
  sessionsOf(personId: string, now: Date, idleSince: Date): Promise<SessionRecord[]> {
    return this.manager.find(SessionRecord, {
      where: { personId, expiresAt: MoreThan(now), lastSeenAt: MoreThan(idleSince) },
      order: { lastSeenAt: 'DESC' },
      take: 200,
    })
  }

  session(personId: string, id: string): Promise<SessionRecord | null> {
    return this.manager.findOneBy(SessionRecord, { id, personId })
  }

  async confirmSession(id: string, at: Date): Promise<void> {
    await this.manager.update(SessionRecord, { id }, { confirmedAt: at })
  }

  /** @returns whether there was one */
  async endSession(personId: string, id: string): Promise<boolean> {
    const done = await this.manager.delete(SessionRecord, { id, personId })
    return done.affected === 1
  }

  /** Ends all sessions of a person, but one if it is given. */
  async endSessions(personId: string, except?: string): Promise<void> {
    await this.manager.delete(SessionRecord, { personId, ...(except !== undefined && { id: Not(except) }) })
  }

  async insertToken(token: ApiTokenRecord): Promise<void> {
    await this.manager.insert(ApiTokenRecord, token)
  }

  tokensOf(personId: string): Promise<ApiTokenRecord[]> {
    return this.manager.find(ApiTokenRecord, { where: { personId }, order: { createdAt: 'DESC' }, take: 200 })
  }

  /** @returns how many were open until now */
  async revokeTokens(personId: string, now: Date, id?: string): Promise<number> {
    const done = await this.manager
      .createQueryBuilder()
      .update(ApiTokenRecord)
      .set({ revokedAt: now })
      .where('person_id = :personId and revoked_at is null', { personId })
      .andWhere(id === undefined ? 'true' : 'id = :id', { id })
      .execute()
    return done.affected ?? 0
  }

  /** Keeps a set-up code beside those that other processes have printed. */
  async addSetupCode(hash: Buffer, now: Date): Promise<void> {
    await this.manager.query(`insert into setup_code (code_hash, created_at) values ($1, $2)`, [hash, now])
  }

  async isSetupCode(hash: Buffer): Promise<boolean> {
    const [row] = await this.manager.query<unknown[]>(`select 1 from setup_code where code_hash = $1`, [hash])
    return row !== undefined
  }

  /** Uses up a set-up code, and with it all others; true for exactly one caller. */
  async useSetupCode(hash: Buffer): Promise<boolean> {
    const [rows] = await this.manager.query<[unknown[], number]>(
      `delete from setup_code where exists (select 1 from setup_code where code_hash = $1) returning code_hash as used`,
      [hash],
    )
    return rows.length > 0
  }
}
