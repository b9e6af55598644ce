import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { createBootstrap } from 'bootstrap-vue-next'
import { afterEach, expect } from 'vitest'
import { defineComponent, h, type Component } from 'vue'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'

/** A component on a page, and what went wrong while it was shown. */
export interface Page {
  view: VueWrapper
  router: Router
  /** What the framework warned of, and what was thrown. */
  faults: string[]
  /** Waits until what was asked for has come and is shown. */
  settle: () => Promise<void>
  text: () => string
  field: (label: string) => HTMLInputElement
  type: (label: string, value: string) => Promise<void>
  press: (name: string | RegExp) => Promise<void>
}

const mounted: VueWrapper[] = []
afterEach(() => {
  for (const one of mounted.splice(0)) one.unmount()
  document.body.innerHTML = ''
  localStorage.clear()
})

const Nowhere = defineComponent({ render: () => h('div') })

/** What a label says, without what its field holds. */
function ownText(label: HTMLElement): string {
  const copy = label.cloneNode(true) as HTMLElement
  for (const one of copy.querySelectorAll('select, textarea, input')) one.remove()
  return copy.textContent
}

/** Shows a component as the console does: with router, queries and the stand-in for the service. @param at where the browser is */
export async function open(component: Component, props: object = {}, at = '/'): Promise<Page> {
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/:all(.*)*', component: Nowhere }] })
  await router.push(at)
  const faults: string[] = []
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const view = mount(defineComponent({ render: () => h(component, props) }), {
    attachTo: document.body,
    global: {
      plugins: [createBootstrap(), [VueQueryPlugin, { queryClient: queries }], router],
      config: {
        warnHandler: (message, _, trace) => faults.push(`${message} ${trace}`),
        errorHandler: (error) => faults.push(String((error as Error).stack)),
      },
      stubs: { teleport: true },
    },
  })
  mounted.push(view)
  const settle = async () => {
    for (let i = 0; i < 4; i++) await flushPromises()
  }
  await settle()
  const field = (label: string): HTMLInputElement => {
    const named = [...document.querySelectorAll<HTMLElement>('label, [aria-label]')].find(
      (one) => (one.getAttribute('aria-label') ?? ownText(one)).trim().replace(/\s+/g, ' ') === label,
    )
    expect(named, `no field “${label}”`).toBeDefined()
    const id = named!.getAttribute('for')
    const found = id
      ? document.getElementById(id)
      : named!.matches('label')
        ? named!.querySelector('input, select, textarea')
        : named
    return found as HTMLInputElement
  }
  return {
    view,
    router,
    faults,
    settle,
    text: () => document.body.textContent.replace(/\s+/g, ' ').trim(),
    field,
    async type(label, value) {
      const one = field(label)
      one.value = value
      one.dispatchEvent(new Event('input', { bubbles: true }))
      one.dispatchEvent(new Event('change', { bubbles: true }))
      await settle()
    },
    async press(name) {
      const all = [
        ...document.querySelectorAll<HTMLElement>('button, a[href], input[type=checkbox], input[type=radio]'),
      ]
      const isIt = (one: HTMLElement) => {
        const said = (one.getAttribute('aria-label') ?? one.closest('label')?.textContent ?? one.textContent)
          .trim()
          .replace(/\s+/g, ' ')
        return typeof name === 'string' ? said === name : name.test(said)
      }
      const found = all.find(isIt)
      expect(
        found,
        `no button “${String(name)}” among ${all.map((one) => one.textContent.trim()).join(', ')}`,
      ).toBeDefined()
      const form = (found as HTMLButtonElement).form
      found!.click()
      // Browsers send the form of a button; this document does not.
      if (form && (found as HTMLButtonElement).type === 'submit' && !form.checkValidity()) form.reportValidity()
      await settle()
    },
  }
}
