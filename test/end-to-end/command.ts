import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { CLI } from '../../scripts/lib/stack.mjs'

const BUILT = fileURLToPath(new URL('../../packages/cli/dist/bathyscribe.js', import.meta.url))

/** What a command printed, and what it ended with. */
export interface Done {
  status: number | null
  stdout: string
  stderr: string
}

/** Somebody whose sign-in is kept in a folder of the tests' own, who sees no colours. */
function atHome(home: string, environment: NodeJS.ProcessEnv): NodeJS.ProcessEnv {
  const { BATHYSCRIBE_TOKEN: _, ...inherited } = process.env
  return { ...inherited, NO_COLOR: '1', BATHYSCRIBE_CONFIG_HOME: home, ...environment }
}

/** One command as somebody, as a process of its own. */
export function processOf(
  { url, home }: { url: string; home: string },
  args: string[],
  input = '',
  environment: NodeJS.ProcessEnv = {},
): Promise<Done> {
  return startCommand(['--url', url, ...args], input, atHome(home, environment))
}

/** The same by the program that was built, but within the tests' process: what a process costs to begin is many times what most commands do. */
export function commandOf(
  { url, home }: { url: string; home: string },
  args: string[],
  input = '',
  environment: NodeJS.ProcessEnv = {},
): Promise<Done> {
  return runCommand(['--url', url, ...args], input, atHome(home, environment))
}

/** Runs the command line that was built within this process. */
export async function runCommand(args: string[], input: string, environment: NodeJS.ProcessEnv): Promise<Done> {
  const built = (await import(BUILT)) as typeof import('@bathyscribe/cli')
  const done = { stdout: '', stderr: '' }
  const own = {
    environment,
    print: (text: string) => void (done.stdout += text),
    say: (text: string) => void (done.stderr += text),
    readInput: () => input,
    isTTY: { input: false, output: false, messages: false },
    colours: false,
  }
  const status = await built.atTerminal(own, () => built.runCommand([process.execPath, CLI, ...args]))
  return { status, ...done }
}

/** Runs it as a person does. The tests' own process goes on meanwhile: what it holds open to tools would be closed behind its back. */
function startCommand(args: string[], input: string, environment: NodeJS.ProcessEnv): Promise<Done> {
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
