import { expect, it } from 'vitest'
import { following, recent, remember } from '../../src/composables/settings'

it('the latest search stands first, once, among eight', () => {
  recent.value = []
  for (const line of ['a', 'b', 'a', ...'cdefghi']) remember(line)
  expect(recent.value).toEqual(['i', 'h', 'g', 'f', 'e', 'd', 'c', 'a'])
})

it('the last choice is followed by the first', () => {
  expect([following(['a', 'b'], 'a'), following(['a', 'b'], 'b')]).toEqual(['b', 'a'])
})
