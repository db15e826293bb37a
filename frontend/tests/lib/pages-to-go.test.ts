import { expect, it } from 'vitest'
import { ACTIONS } from '../../src/lib/actions'
import { PAGES } from '../../src/lib/pages-to-go'

it('pages to go to have names and titles of their own, and no place of mail is among them', () => {
  expect(new Set(PAGES.map((one) => one.name)).size).toBe(PAGES.length)
  expect(new Set(PAGES.map((one) => one.title)).size).toBe(PAGES.length)
  expect(PAGES.map((one) => one.name)).not.toContain('desk')
  expect(ACTIONS.find((one) => one.name === 'go')?.needs).toBe('place')
})
