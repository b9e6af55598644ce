import type { Client } from '@bathyscribe/contract'
import type { Say } from '../machine/place.js'
import type { Running } from '../machine/stack.js'

/** What a benchmark came to: the larger the ratio the better, and under its floor it is not good enough. */
export interface Result {
  name: string
  ratio: number
  floor: number
  /** Microseconds of processor a request, of server and database together. */
  cpuUs?: { bare: number; limit: number; subject: number }
  detail: Record<string, unknown>
}

/** A tool of LTI 1.3 in the bench's own hands: its keyset, with a count of how often it was asked for. */
export interface SceneOf13 {
  link: string
  clientId: string
  redirectUri: string
  scope: string
  kid: string
  pem: string
  keysetReads: () => number
  stop: () => void
}

/** What every benchmark finds: a service with a course of learners, what it is compared with, and how long it may take. */
export interface Setting extends Running {
  client: Client
  databaseUrl: string
  keyFile: string
  bareUrl: string
  limitUrl: string
  /** Processes by what they are, for their processor time. */
  accounts: { server: { bare: number; limit: number; subject: number }; database: number }
  /** A published link of LTI 1.1, cookies of learners in its course, and what its tool signs with. */
  assignment: string
  cookies: string[]
  signing: { key: string; secret: string; url: string; resultIds: string[] }
  of13: SceneOf13
  seconds: number
  rounds: number
  /** Of each kind, where messages are made by lot. */
  messages: number
  say: Say
}
