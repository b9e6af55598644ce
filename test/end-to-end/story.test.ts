import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { RUN } from '@bathyscribe/yard/machine/place'
import { startStack, stopStack } from '@bathyscribe/yard/machine/stack'
import { runStory } from '@bathyscribe/yard/academy/story'
import { eventually } from '../eventually.js'
import { commandOf } from './command.js'

describe('the demo', () => {
  it('tells its example story to the end: every score is in the gradebook', async () => {
    const folder = join(RUN, `e2e-story-${process.pid}`)
    const lines: string[] = []
    const done = await runStory(folder, (line) => void lines.push(line), commandOf)
    expect(done, lines.join('\n')).toBe(0)
    expect(lines.join('\n')).toContain('Every score is in the gradebook')
    expect(existsSync(folder)).toBe(false)
  }, 360_000)

  it('started twice finds itself running, and comes back with its data after a kill', async () => {
    const folder = join(RUN, `e2e-again-${process.pid}`)
    const options = { folder, servicePort: 0, toolsPort: 0, serverSettings: { fsync: 'off' } }
    try {
      const first = await startStack(options)
      expect(await startStack({ folder })).toMatchObject({ fresh: false, pids: first.pids })
      for (const pid of first.pids) process.kill(pid, 'SIGKILL')
      for (const pid of first.pids) await eventually(() => expect(() => process.kill(pid, 0)).toThrow('ESRCH'))
      const again = await startStack({ folder })
      expect(again).toMatchObject({ fresh: true, url: first.url })
      expect(await (await fetch(`${again.url}/readyz`)).json()).toEqual({ status: 'ready' })
    } finally {
      await stopStack(folder, { remove: true })
    }
  })
})
