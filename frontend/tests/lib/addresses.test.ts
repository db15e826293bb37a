import { describe, expect, it } from 'vitest'
import type { Address } from '../../src/api/client'
import { isGiven, lineOf, partsOf, purposeWords, PURPOSES } from '../../src/lib/addresses'

const PLAIN: Address = {
  address: 'maren@quillmark.example',
  own: true,
  purpose: '',
  given_to: '',
  made_at: 0,
  total: 0,
  noise: 0,
  read: 0,
  organisations: 0,
  leak: null,
}

describe('addresses', () => {
  it('are given to one party by a note or by a tag', () => {
    expect(isGiven(PLAIN)).toBe(false)
    expect(isGiven({ ...PLAIN, given_to: 'Corvane' })).toBe(true)
    expect(isGiven({ ...PLAIN, address: 'maren+shop@quillmark.example' })).toBe(true)
    expect(isGiven({ ...PLAIN, address: 'maren@a+b.example' })).toBe(false)
  })

  it('are told apart by what stands before the last sign', () => {
    expect(partsOf('maren+a@b.example')).toEqual(['maren+a', '@b.example'])
    expect(partsOf('"odd@one"@b.example')).toEqual(['"odd@one"', '@b.example'])
    expect(partsOf('nobody')).toEqual(['nobody', ''])
  })

  it('have a purpose in words, and a line that finds their mail', () => {
    for (const { value, short } of PURPOSES) expect(purposeWords(value)).toBe(short)
    expect(lineOf('a@b.example')).toBe('to:"a@b.example"')
  })
})
