import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Component } from 'vue'
import { router } from '../src/router.js'
import { loadSession } from '../src/state/session.js'
import { open } from './page.js'
import { serve } from '../../../test/served.js'

/** As many answers as there are of everything, from nothing at all to names of every script. */
const SEEDS = [1, 2, 3, 4, 5, 6]

const PAGES = router
  .getRoutes()
  .flatMap(({ path, components }) =>
    components?.['default'] ? [[path, components['default'] as () => Promise<{ default: Component }>] as const] : [],
  )

// What is asked a moment after the page was opened is asked, too, however fast the machine is.
beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] }))
afterEach(() => void vi.useRealTimers())

describe('every page shows whatever the service may answer', () => {
  it.each(PAGES)('%s', async (path, load) => {
    // What is nowhere is told nothing of its address.
    const names = [...path.matchAll(/:(\w+)/g)].flatMap(([, name]) => (name === 'rest' ? [] : [name!]))
    const props = Object.fromEntries(names.map((name) => [name, 'of-the-test']))
    const { default: component } = await load()
    for (const seed of SEEDS) {
      serve({}, seed)
      await loadSession()
      const page = await open(component, props, path.replace(/:\w+(\(.*\))?\*?/g, 'of-the-test'))
      await vi.advanceTimersByTimeAsync(1000)
      await page.settle()
      expect(page.faults, `seed ${seed}`).toEqual([])
      expect(page.text().length).toBeGreaterThan(10)
      page.view.unmount()
    }
  })
})
