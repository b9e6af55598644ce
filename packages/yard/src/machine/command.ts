import { spawn } from 'node:child_process'
import { CLI } from './place.js'

/** What a command printed, and what it ended with. */
export interface Done {
  status: number | null
  stdout: string
  stderr: string
}

/** Runs one command as somebody whose sign-in is kept at `home`. */
export type Run = (
  as: { url: string; home: string },
  args: string[],
  input?: string,
  environment?: NodeJS.ProcessEnv,
) => Promise<Done>

/** Somebody whose sign-in is kept in a folder of its own, who sees no colours. */
export function atHome(home: string, environment: NodeJS.ProcessEnv = {}): NodeJS.ProcessEnv {
  const { BATHYSCRIBE_TOKEN: _, ...inherited } = process.env
  return { ...inherited, NO_COLOR: '1', BATHYSCRIBE_CONFIG_HOME: home, ...environment }
}

/** Runs one as a process of its own. This one goes on meanwhile: what it holds open to tools would be closed behind its back. */
export const processOf: Run = ({ url, home }, args, input = '', environment = {}) =>
  new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [CLI, '--url', url, ...args], { env: atHome(home, environment) })
    const done = { stdout: '', stderr: '' }
    for (const name of ['stdout', 'stderr'] as const)
      child[name].setEncoding('utf8').on('data', (text: string) => (done[name] += text))
    child.on('error', reject)
    child.on('close', (status) => resolve({ status, ...done }))
    // One that ends before it has read everything is judged by how it ended.
    child.stdin.on('error', () => undefined)
    child.stdin.end(input)
  })
