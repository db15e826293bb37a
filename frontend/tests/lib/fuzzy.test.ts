import { describe, expect, it } from 'vitest'
import { match, matching } from '../../src/lib/fuzzy'

describe('letters that match', () => {
  it('stand in order, not side by side', () => {
    expect(match('pbk', 'Put back')).toBeGreaterThan(0)
    expect(match('kb', 'Put back')).toBe(0)
  })

  it('count more at the beginning of words', () => {
    expect(match('pb', 'Put back')).toBeGreaterThan(match('pb', 'Open a bucket of tips, brown'))
  })

  it('are all, and in their order, where nothing is typed', () => {
    expect(matching('', ['b', 'a'], (one) => one)).toEqual(['b', 'a'])
  })

  it('put the best first and leave out what does not match', () => {
    expect(matching('sea', ['Release a', 'Search', 'Undo'], (one) => one)[0]).toBe('Search')
    expect(matching('sea', ['Undo'], (one) => one)).toEqual([])
  })
})
