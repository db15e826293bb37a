import { describe, expect, it } from 'vitest'
import { ageWords, lineOf } from '../../src/lib/oldMail'

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
