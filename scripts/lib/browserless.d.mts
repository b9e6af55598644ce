import type { Client } from '@bathyscribe/contract'

export interface Person {
  client: Client
  url: string
  person: { id: string; username: string }
}
export function signIn(url: string, username: string, password: string): Promise<Person>
