import { expect, it } from 'vitest'
import { ACTIONS } from '../src/lib/actions'
import { PAGES, PLACES, TO_GO, tabsOf } from '../src/pages'

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

it('every page stands in a place, and what stands within another names one that is there', () => {
  const places = PLACES.map((one) => one.name)
  expect(places.length).toBeLessThanOrEqual(8)
  for (const page of PAGES) {
    expect(places).toContain(page.place)
    if (page.within) expect(PAGES.map((one) => one.name)).toContain(page.within)
  }
  for (const place of PLACES) {
    const tabs = tabsOf(place.name)
    if (tabs.length) expect(tabs.map((one) => one.to)).toContain(place.to)
  }
})

it('places with several pages have tabs, others none', () => {
  expect(tabsOf('bulk').map((one) => one.to)).toEqual(['/subscriptions', '/old-mail', '/addresses'])
  expect(tabsOf('follow-up')).toEqual([])
})
