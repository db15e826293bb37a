import { describe, expect, it } from 'vitest'
import { moved } from '../../src/lib/order'

describe('an order', () => {
  it('has one moved to another place, and none lost', () => {
    expect(moved(['a', 'b', 'c'], 0, 2)).toEqual(['b', 'c', 'a'])
    expect(moved(['a', 'b', 'c'], 2, 0)).toEqual(['c', 'a', 'b'])
    expect(moved(['a', 'b'], 0, 2)).toEqual(['a', 'b'])
    expect(moved(['a', 'b'], -1, 0)).toEqual(['a', 'b'])
  })
})
