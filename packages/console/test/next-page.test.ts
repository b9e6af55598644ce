import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, type Component } from 'vue'
import { useRouter, type Router } from 'vue-router'
import AssignmentForm from '../src/pages/AssignmentForm.vue'
import { useNextPage } from '../src/state/next-page.js'
import SweepList from '../src/sweeps/SweepList.vue'
import { open, type Page } from './page.js'
import { loadSession } from '../src/state/session.js'
import { callsOf, sampled, serve } from '../../../test/served.js'

/** An answer that waits until it is let go. */
function held(answer: unknown) {
  let letGo!: () => void
  const gate = new Promise<void>((resolve) => (letGo = resolve))
  return { answer: () => gate.then(() => answer), letGo: () => letGo() }
}

describe('an act that leads to another page', () => {
  let sweep: ReturnType<typeof held>
  let page: Page
  beforeEach(async () => {
    sweep = held({ ...sampled('startSweep'), id: 's7' })
    serve({
      listSweeps: () => ({ items: [], next: null }),
      listCourses: () => ({ items: [], next: null }),
      listTools: () => ({ items: [], next: null }),
      startSweep: () => sweep.answer(),
    })
    page = await open(SweepList, {}, '/soundings')
    await page.press('Sweep now')
    expect(callsOf('startSweep')).toHaveLength(1)
  })

  it('takes there whoever waited for it', async () => {
    await page.router.push('/soundings?of=nothing-else')
    sweep.letGo()
    await page.settle()
    expect(page.router.currentRoute.value.path).toBe('/sweeps/s7')
  })

  it('leaves alone whoever went elsewhere meanwhile', async () => {
    await page.router.push('/watch')
    sweep.letGo()
    await page.settle()
    expect(page.router.currentRoute.value.path).toBe('/watch')
  })

  it('does not overtake a page that is still loading', async () => {
    const loading = held(defineComponent({ render: () => h('p', 'far') }))
    page.router.addRoute({ path: '/far', component: loading.answer as () => Promise<Component> })
    const going = page.router.push('/far')
    await page.settle()
    sweep.letGo()
    await page.settle()
    loading.letGo()
    await going
    expect(page.router.currentRoute.value.path).toBe('/far')
  })
})

it('an act leads on where leaving was given up', async () => {
  let goOn!: ReturnType<typeof useNextPage>
  let router!: Router
  const Asking = defineComponent({
    setup() {
      goOn = useNextPage()
      router = useRouter()
      return () => h('p')
    },
  })
  await open(Asking, {}, '/form')
  const stop = router.beforeEach((to) => to.path !== '/watch')
  await router.push('/watch')
  stop()
  expect(await goOn('/made')).toBe(true)
  expect(router.currentRoute.value.path).toBe('/made')
  expect(await goOn('/elsewhere')).toBe(false)
})

it('publishing sounds by itself for whoever went elsewhere, too', async () => {
  const made = held({ id: 'a1' })
  const { person, platform } = sampled('whoAmI')
  serve({
    whoAmI: () => ({ person, platform: { ...platform, soundOnPublish: true } }),
    showCourse: () => ({ code: 'HYD 210', timeZone: 'Europe/Oslo', categories: [] }),
    listTools: () => ({ items: [{ ...sampled('showTool'), slug: 'drills', features: [], firstEntry: 'none' }], next: null }),
    showOutline: () => ({ units: [], loose: [] }),
    listGroups: () => ({ items: [] }),
    createAssignment: () => made.answer(),
  }) // oxfmt-ignore
  await loadSession()
  const page = await open(AssignmentForm, { course: 'HYD-210' }, '/courses/HYD-210/assignments/new')
  await page.type('Title', 'Soundings')
  await page.type('Points', '10')
  await page.type('Tool', 'drills')
  await page.press('Make and publish')
  await page.router.push('/watch')
  expect(callsOf('runSounding')).toEqual([])
  made.letGo()
  await page.settle()
  expect(page.router.currentRoute.value.path).toBe('/watch')
  expect(callsOf('runSounding')).toMatchObject([{ params: { assignment: 'a1' }, body: { depth: 'deep' } }])
})
