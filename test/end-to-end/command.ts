import { spawn } from 'node:child_process'
import { CLI } from '../../scripts/lib/stack.mjs'

/** What a command printed, and what it ended with. */
export interface Done {
  status: number | null
  stdout: string
  stderr: string
}

/** The same as somebody whose sign-in is kept in a folder of the tests' own, without colours. */
export function commandOf(
  { url, home }: { url: string; home: string },
  args: string[],
  input = '',
  environment: NodeJS.ProcessEnv = {},
): Promise<Done> {
  const { BATHYSCRIBE_TOKEN: _, ...inherited } = process.env
  const own = { ...inherited, NO_COLOR: '1', BATHYSCRIBE_CONFIG_HOME: home, ...environment }
  return command(['--url', url, ...args], input, own)
}

/** Runs the command line as a person does. The tests' own process goes on meanwhile: what it holds open to tools would be closed behind its back. */
export function command(args: string[], input = '', environment: NodeJS.ProcessEnv = process.env): Promise<Done> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [CLI, ...args], { env: environment })
    const done = { stdout: '', stderr: '' }
    for (const name of ['stdout', 'stderr'] as const)
      child[name].setEncoding('utf8').on('data', (text: string) => (done[name] += text))
    child.on('error', reject)
    child.on('close', (status) => resolve({ status, ...done }))
    // One that ends before it has read everything is judged by how it ended.
    child.stdin.on('error', () => undefined)
    child.stdin.end(input)
  })
}
