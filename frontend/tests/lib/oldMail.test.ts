import { describe, expect, it } from 'vitest'
import type { OldMailRow } from '../../src/api/client'
import { ageWords, COLUMNS, lineOf, sorted } from '../../src/lib/oldMail'

describe('ages in words', () => {
  it('are months below a year, then years', () => {
    expect([0, 4, 13, 26, 52, 104, 520].map(ageWords)).toEqual([
      'all of it', 'a month', '3 months', '6 months', 'a year', '2 years', '10 years',
    ]) // prettier-ignore
  })
})

describe('the line that shows what is in a row', () => {
  it('names the list, the sender or the domain, and the age', () => {
    expect(lineOf('list:news.bell.example', 52)).toBe('list:"news.bell.example" before:52w')
    expect(lineOf('address:kim@studio.example', 0)).toBe('from:"kim@studio.example"')
    expect(lineOf('bell.example', 4)).toBe('from:"bell.example" before:4w')
  })
})

describe('the order of old mail', () => {
  const made = (name: string, changes: Partial<OldMailRow>) =>
    ({
      key: name, name, free: 1, free_size: 1, kept: 0, kept_size: 0, read: 0, answered: 0, yearly: 1, oldest: 1, newest: 2,
      ...changes,
    }) as OldMailRow // prettier-ignore
  const rows = [made('b', { free_size: 3 }), made('a', { free_size: 9 }), made('c', { read: 1, kept: 4 })]

  it('leaves the order it came in, or puts what frees most first, and knows each column', () => {
    expect(sorted(rows, undefined, false)).toBe(rows)
    expect(sorted(rows, 'size', false).map((one) => one.name)).toEqual(['a', 'b', 'c'])
    expect(sorted(rows, 'name', true).map((one) => one.name)).toEqual(['c', 'b', 'a'])
    expect(sorted(rows, 'read', true)[0]?.name).toBe('c')
    expect(sorted(rows, 'kept', false)[0]?.name).toBe('c')
    for (const one of COLUMNS) expect(sorted(rows, one.name, false)).toHaveLength(3)
  })
})
