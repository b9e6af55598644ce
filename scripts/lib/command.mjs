// One command of the command line, as a person of the example data runs it.
import { spawn } from 'node:child_process'
import { CLI } from './stack.mjs'

/** Somebody whose sign-in is kept in a folder of its own, who sees no colours. */
export function atHome(home, environment = {}) {
  const { BATHYSCRIBE_TOKEN: _, ...inherited } = process.env
  return { ...inherited, NO_COLOR: '1', BATHYSCRIBE_CONFIG_HOME: home, ...environment }
}

/** Runs one as a process of its own. This one goes on meanwhile: what it holds open to tools would be closed behind its back. */
export function processOf({ url, home }, args, input = '', environment = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [CLI, '--url', url, ...args], { env: atHome(home, environment) })
    const done = { stdout: '', stderr: '' }
    for (const name of ['stdout', 'stderr']) child[name].setEncoding('utf8').on('data', (text) => (done[name] += text))
    child.on('error', reject)
    child.on('close', (status) => resolve({ status, ...done }))
    // One that ends before it has read everything is judged by how it ended.
    child.stdin.on('error', () => undefined)
    child.stdin.end(input)
  })
}
