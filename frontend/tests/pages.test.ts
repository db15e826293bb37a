import { expect, it } from 'vitest'
import { ACTIONS } from '../src/lib/actions'
import { PAGES, TO_GO, tabsOf } from '../src/pages'

it('pages have names and titles of their own, and no place of mail is among them', () => {
  expect(new Set(PAGES.map((one) => one.name)).size).toBe(PAGES.length)
  expect(new Set(TO_GO.map((one) => one.title)).size).toBe(TO_GO.length)
  expect(PAGES.map((one) => one.name)).not.toContain('desk')
  expect(ACTIONS.find((one) => one.name === 'go')?.needs).toBe('place')
})

it('a page can be gone to by its name alone', () => {
  for (const { name } of TO_GO) {
    const page = PAGES.find((one) => one.name === name)
    expect(page?.path.replace(/\/:.*$/, '')).toBe(`/${name}`)
  }
})

it('what stands within another names one that is there', () => {
  for (const page of PAGES) if (page.within) expect(PAGES.map((one) => one.name)).toContain(page.within)
  expect(tabsOf('bulk').map((one) => one.to)).toEqual(['/subscriptions', '/old-mail', '/addresses'])
})
