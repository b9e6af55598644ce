import { LaunchRefused } from '../lti1/verify-launch.js'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/'
export const AGS_ENDPOINT = `${AGS}claim/endpoint`
export const SCORE_SCOPE = `${AGS}scope/score`
export const COLUMN_SCOPE = `${AGS}scope/lineitem`
const ROSTER_SCOPE = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'

/** What a tool says of one person's work (AGS 2.0 section 3.4.1). */
export interface ScoreToSend {
  userId: string
  activityProgress: 'Initialized' | 'Started' | 'InProgress' | 'Submitted' | 'Completed'
  gradingProgress: 'FullyGraded' | 'Pending' | 'PendingManual' | 'Failed' | 'NotReady'
  scoreGiven?: number
  scoreMaximum?: number
  comment?: string
  scoringUserId?: string
  timestamp?: string
  submission?: { submittedAt: string }
}
export interface Column {
  id: string
  label: string
  scoreMaximum: number
  resourceId?: string
}
export interface RosterMember {
  user_id: string
  status?: string
  name?: string
  email?: string
  roles: string[]
}

/** Where a tool gets the token for a call of an address from: anew for each call, or one that it holds. */
export type TokenOf = (scopes: readonly string[], url: string) => Promise<string>

/** Calls of a platform's services, as a tool makes them. */
export class GradeServices {
  constructor(private readonly tokenOf: TokenOf) {}

  /** @returns the status, and what the platform said when it refused */
  async score(
    lineItem: string,
    score: ScoreToSend,
    spoil: { bearer?: string; scope?: string; mediaType?: string } = {},
  ): Promise<{ status: number; said: string }> {
    const response = await fetch(`${lineItem}/scores`, {
      method: 'POST',
      headers: {
        'content-type': spoil.mediaType ?? 'application/vnd.ims.lis.v1.score+json',
        authorization: `Bearer ${spoil.bearer ?? (await this.tokenOf([spoil.scope ?? SCORE_SCOPE], lineItem))}`,
      },
      body: JSON.stringify({ timestamp: new Date().toISOString(), ...score }),
    })
    return { status: response.status, said: response.ok ? '' : (await response.text()).slice(0, 300) }
  }

  async makeColumn(lineItems: string, column: Omit<Column, 'id'> & Record<string, unknown>): Promise<Column> {
    return this.exchange<Column>('POST', lineItems, column)
  }

  /** Says what a column is called here, and that its submissions can be looked at. */
  async describeColumn(lineItem: string, more: Record<string, unknown>): Promise<void> {
    const now = await this.exchange<Record<string, unknown>>('GET', lineItem)
    await this.exchange('PUT', lineItem, { ...now, ...more })
  }

  columns(lineItems: string): Promise<Column[]> {
    return this.exchange<Column[]>('GET', lineItems)
  }

  /** Everybody of a roster, page by page. */
  async roster(url: string): Promise<{ members: RosterMember[]; differences: string | undefined }> {
    const members: RosterMember[] = []
    let differences: string | undefined
    for (let next: string | undefined = url; next;) {
      const response: Response = await fetch(next, {
        headers: { authorization: `Bearer ${await this.tokenOf([ROSTER_SCOPE], next)}` },
      })
      if (!response.ok)
        throw new LaunchRefused(502, `The platform gave no roster: ${(await response.text()).slice(0, 300)}`)
      members.push(...((await response.json()) as { members: RosterMember[] }).members)
      const link = response.headers.get('link') ?? ''
      next = /<([^<>]+)>; *rel="next"/.exec(link)?.[1]
      differences = /<([^<>]+)>; *rel="differences"/.exec(link)?.[1] ?? differences
    }
    return { members, differences }
  }

  private async exchange<T>(method: 'GET' | 'POST' | 'PUT', url: string, body?: unknown): Promise<T> {
    const response = await fetch(url, {
      method,
      headers: {
        authorization: `Bearer ${await this.tokenOf([COLUMN_SCOPE], url)}`,
        ...(body !== undefined && { 'content-type': 'application/vnd.ims.lis.v2.lineitem+json' }),
      },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    })
    if (!response.ok) throw new LaunchRefused(502, `The platform refused: ${(await response.text()).slice(0, 300)}`)
    return (await response.json()) as T
  }
}
