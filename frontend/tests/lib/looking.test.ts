import { expect, it } from 'vitest'
import { ENOUGH, Looking } from '../../src/lib/looking'

const LIST = [11, 12, 13, 14, 15]

/** A list looked at for some seconds; what was looked past in all of them. */
function looked(looking: Looking, seconds: number, first: number, last: number, open = 0): number[] {
  return Array.from({ length: seconds }, () => looking.second(LIST, first, last, open)).flat()
}

it('rows in sight are not looked past before the owner goes on', () => {
  expect(looked(new Looking(), 60, 0, 4)).toEqual([])
})

it('rows above the open one, and above those in sight, are looked past once they stood long enough', () => {
  const looking = new Looking()
  looked(looking, ENOUGH, 0, 3)
  expect(looked(looking, 1, 0, 3, 13)).toEqual([11, 12])
  expect(looked(looking, 5, 3, 4, 13)).toEqual([])
  expect(looked(looking, 1, 3, 4, 14)).toEqual([13])
})

it('rows that flew by are not', () => {
  const looking = new Looking()
  looked(looking, ENOUGH - 1, 0, 1)
  expect(looked(looking, 9, 3, 4)).toEqual([])
})

it('a message opened and left is looked past, whatever stands around it', () => {
  const looking = new Looking()
  looked(looking, ENOUGH, 0, 4, 12)
  expect(looked(looking, 1, 0, 4, 0)).toEqual([12])
})

it('what did not arrive is told again', () => {
  const looking = new Looking()
  looked(looking, ENOUGH, 0, 4)
  const told = looked(looking, 1, 0, 4, 13)
  expect(looked(looking, 2, 0, 4, 13)).toEqual([])
  looking.again(told)
  expect(looked(looking, 2, 0, 4, 13)).toEqual(told)
})

it('each is told once', () => {
  const looking = new Looking()
  looked(looking, ENOUGH, 0, 4)
  expect(looked(looking, 4, 0, 4, 12)).toEqual([11])
})
