import { fileURLToPath } from 'node:url'
import { atHome, type Run } from '@bathyscribe/yard/machine/command'
import { CLI } from '@bathyscribe/yard/machine/place'

export { processOf, type Done } from '@bathyscribe/yard/machine/command'

const BUILT = fileURLToPath(new URL('../../packages/cli/dist/bathyscribe.js', import.meta.url))

/** Runs one command by the program that was built, but within the tests' process: what a process costs to begin is many times what most commands do. */
export const commandOf: Run = async ({ url, home }, args, input = '', environment) => {
  const built = (await import(BUILT)) as typeof import('@bathyscribe/cli')
  const done = { stdout: '', stderr: '' }
  const own = {
    environment: atHome(home, environment),
    print: (text: string | Uint8Array) => void (done.stdout += text.toString()),
    say: (text: string) => void (done.stderr += text),
    readInput: () => input,
    isTTY: { input: false, output: false, messages: false },
    colours: false,
  }
  const status = await built.atTerminal(own, () => built.runCommand([process.execPath, CLI, '--url', url, ...args]))
  return { status, ...done }
}
