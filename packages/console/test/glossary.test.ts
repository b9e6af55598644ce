import { describe, expect, it } from 'vitest'
import { defineComponent, h } from 'vue'
import Glossary from '../src/pages/Glossary.vue'
import { onPressed } from '../src/state/pressed.js'
import { open } from './page.js'

describe('the glossary', () => {
  const words = () => [...document.querySelectorAll('tbody th')].map((one) => one.textContent)

  it('shows every word, and what a vendor calls it leads to it', async () => {
    const page = await open(Glossary)
    expect(words().length).toBeGreaterThan(30)
    await page.type('Search the glossary', 'GRADE PASSBACK')
    expect(words()).toEqual(['returning scores'])
    await page.type('Search the glossary', 'geheimnis')
    expect(words()).toEqual(['shared secret'])
    expect(page.faults).toEqual([])
  })

  it('says so where there is no such word', async () => {
    const page = await open(Glossary)
    await page.type('Search the glossary', ' barnacle ')
    expect(page.text()).toContain('No word here contains “barnacle”.')
    expect(words()).toEqual([])
  })
})

describe('a key that does something', () => {
  it('does so anywhere but where text is typed, and not together with others', async () => {
    let pressed = 0
    const Keys = defineComponent({
      setup: () => onPressed('?', () => pressed++),
      render: () => [h('input', { 'aria-label': 'Text' }), h('p', { id: 'plain' })],
    })
    const page = await open(Keys)
    const press = (on: Element, more: KeyboardEventInit = {}) =>
      on.dispatchEvent(new KeyboardEvent('keydown', { key: '?', bubbles: true, cancelable: true, ...more }))
    press(document.querySelector('#plain')!)
    expect(pressed).toBe(1)
    press(page.field('Text'))
    press(document.querySelector('#plain')!, { ctrlKey: true })
    press(document.querySelector('#plain')!, { key: '!' })
    expect(pressed).toBe(1)
    page.view.unmount()
    press(document.body)
    expect(pressed).toBe(1)
  })
})
