import { chmodSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { homedir } from 'node:os'
import { join } from 'node:path'
import { terminal } from './terminal.js'

/** Where a person is signed in: kept in the user's configuration folder, readable by nobody else. */
export interface SignInNote {
  url: string
  token: string
  username: string
}

function folder(): string {
  const { BATHYSCRIBE_CONFIG_HOME, XDG_CONFIG_HOME } = terminal().environment
  return BATHYSCRIBE_CONFIG_HOME ?? join(XDG_CONFIG_HOME ?? join(homedir(), '.config'), 'bathyscribe')
}

export function readSignIn(): SignInNote | undefined {
  try {
    const note = JSON.parse(readFileSync(join(folder(), 'sign-in.json'), 'utf8')) as Partial<SignInNote>
    return typeof note.url === 'string' && typeof note.token === 'string'
      ? ({ username: '', ...note } as SignInNote)
      : undefined
  } catch {
    return undefined
  }
}

export function writeSignIn(note: SignInNote): string {
  mkdirSync(folder(), { recursive: true, mode: 0o700 })
  const file = join(folder(), 'sign-in.json')
  writeFileSync(`${file}.new`, `${JSON.stringify(note, null, 2)}\n`, { mode: 0o600 })
  chmodSync(`${file}.new`, 0o600)
  renameSync(`${file}.new`, file)
  return file
}

export function removeSignIn(): void {
  rmSync(join(folder(), 'sign-in.json'), { force: true })
}
