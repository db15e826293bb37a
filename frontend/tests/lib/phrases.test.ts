import { describe, expect, it } from 'vitest'
import { askOf, filledIn, holesIn, optionsOf, shortBefore } from '../../src/lib/phrases'

describe('phrases in a text', () => {
  it('finds the placeholders that are left, but not what is quoted or means nothing', () => {
    const text = 'Hi {first name},\n{choose Monday|Tuesday} {ask the price} {first name}\n> {name}\n{x} {}'
    expect(holesIn(text)).toEqual(['{first name}', '{choose Monday|Tuesday}', '{ask the price}'])
    expect(holesIn('')).toEqual([])
  })

  it('says what can be chosen, and what is asked', () => {
    expect(optionsOf('{choose Monday | Tuesday|}')).toEqual(['Monday', 'Tuesday'])
    expect(optionsOf('{ask the price}')).toEqual([])
    expect(askOf('{ask  the price}')).toBe('the price')
    expect(askOf('{first name}')).toBe('first name')
  })

  it('fills in wherever it stands', () => {
    expect(filledIn('{name}, {name}!', '{name}', 'Ilse $&')).toBe('Ilse $&, Ilse $&!')
  })

  it('knows the word before the cursor', () => {
    expect(shortBefore('Dear all,\nsign-off', 18)).toBe('sign-off')
    expect(shortBefore('Dear all, ', 10)).toBe('')
    expect(shortBefore('größe', 5)).toBe('größe')
  })
})
