import { describe, expect, it } from 'vitest'
import { ordered } from '../../src/lib/columns'

const rows = [
  { name: 'a', size: 2 },
  { name: 'b', size: 5 },
  { name: 'c', size: 2 },
]
const bySize = { name: 'size', title: 'Size', of: (row: { size: number }) => row.size }
const byName = (a: { name: string }, b: { name: string }) => a.name.localeCompare(b.name)

describe('rows in the order of a column', () => {
  it('begins with what is small, or goes the other way; equals keep their order either way', () => {
    expect(ordered(rows, bySize, false, byName).map((one) => one.name)).toEqual(['a', 'c', 'b'])
    expect(ordered(rows, bySize, true, byName).map((one) => one.name)).toEqual(['b', 'a', 'c'])
  })

  it('leaves what it was given as it was', () => {
    ordered(rows, bySize, true, byName)
    expect(rows.map((one) => one.name)).toEqual(['a', 'b', 'c'])
  })
})
