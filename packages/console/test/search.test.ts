import { describe, expect, it, vi } from 'vitest'
import SearchBox from '../src/parts/SearchBox.vue'
import { actsFor } from '../src/state/palette.js'
import { loadSession } from '../src/state/session.js'
import { open } from './page.js'
import { sampled, serve } from '../../../test/served.js'

describe('the search', () => {
  it('finds as one types, and goes where the marked line leads', async () => {
    serve({
      listCourses: () => ({
        items: [sampled('showCourse', { id: 'c1', code: 'HYD 210', title: 'Surveying' })],
        next: null,
      }),
    })
    const page = await open(SearchBox)
    await page.type('Search everything', 'hyd')
    await vi.waitFor(() => expect(page.text()).toContain('HYD 210 Surveying'))
    page.field('Search everything').dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
    await page.settle()
    expect(page.router.currentRoute.value.path).toBe('/courses/c1')
    expect(page.field('Search everything').value).toBe('')
  })

  it('is reached by “/” from the page, and not while one types elsewhere', async () => {
    const page = await open(SearchBox)
    const box = page.field('Search everything')
    const elsewhere = document.body.appendChild(document.createElement('input'))
    const press = (on: EventTarget) => on.dispatchEvent(new KeyboardEvent('keydown', { key: '/', bubbles: true }))
    press(elsewhere)
    expect(document.activeElement).not.toBe(box)
    press(document.body)
    expect(document.activeElement).toBe(box)
  })

  it('is reached by Ctrl-K wherever one types', async () => {
    const page = await open(SearchBox)
    const box = page.field('Search everything')
    const elsewhere = document.body.appendChild(document.createElement('textarea'))
    elsewhere.focus()
    const press = (more: object) => elsewhere.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', bubbles: true, cancelable: true, ...more })) // oxfmt-ignore
    for (const more of [{}, { ctrlKey: true, altKey: true }, { ctrlKey: true, shiftKey: true }]) press(more)
    expect(document.activeElement).toBe(elsewhere)
    // The browser's own meaning of the key is not acted on.
    expect(press({ ctrlKey: true })).toBe(false)
    expect(document.activeElement).toBe(box)
  })

  it('finds assignments by title, and acts by every word that one has for them', async () => {
    const { person, platform } = sampled('whoAmI')
    serve({
      whoAmI: () => ({ person: { ...person, siteRole: 'administrator' }, platform }),
      listCourses: () => ({ items: [], next: null }),
      listTools: () => ({ items: [], next: null }),
      listPeople: () => ({ items: [], next: null }),
      findAssignments: ({ query }) => ({
        items: query?.search === 'bends' ? [{ id: 'a1', slug: 'bends', title: 'Bends', state: 'draft', toolName: 'Drills', course: { id: 'c1', code: 'HYD 210', title: 'Surveying' } }] : [],
      }),
    }) // oxfmt-ignore
    await loadSession()
    const page = await open(SearchBox, {}, '/courses/c1/outline')
    await page.type('Search everything', 'bends')
    await vi.waitFor(() => expect(page.text()).toContain('Assignment Bends, HYD 210'))
    await page.type('Search everything', 'add too')
    await vi.waitFor(() => expect(page.text()).toContain('Go to Register a tool'))
    await page.type('Search everything', 'new assi')
    await vi.waitFor(() => expect(page.text()).toContain('Go to New assignment (this course)'))
    page.field('Search everything').dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
    await page.settle()
    expect(page.router.currentRoute.value.path).toBe('/courses/c1/assignments/new')
  })

  it('offers acts to those who may do them', async () => {
    const found = (typed: string, path = '/watch') => actsFor(typed, path).map((one) => one.to)
    const as = async (siteRole: 'administrator' | 'none', teaches: boolean) => {
      const { person, platform } = sampled('whoAmI')
      serve({ whoAmI: () => ({ person: { ...person, siteRole }, platform, teaches }) })
      await loadSession()
    }
    await as('none', false)
    expect([found('audit'), found('grade'), found('new assi', '/courses/c1')]).toEqual([[], [], []])
    expect(found('password')).toEqual(['/account'])
    await as('none', true)
    expect([found('audit'), found('grade')]).toEqual([[], ['/waiting-work']])
    expect(found('new assi', '/courses/c1')).toEqual(['/courses/c1/assignments/new'])
    await as('administrator', false)
    expect([found('audit'), found('  '), found('audit nothing')]).toEqual([['/audit'], [], []])
    // Where one makes a course, one is in none yet.
    expect(found('new assi', '/courses/new')).toEqual([])
  })

  it('says where nothing is of that name', async () => {
    serve({ listCourses: () => ({ items: [], next: null }), findAssignments: () => ({ items: [] }) })
    const page = await open(SearchBox)
    await page.type('Search everything', 'nothing')
    await vi.waitFor(() => expect(page.text()).toContain('Nothing of that name.'))
  })
})
