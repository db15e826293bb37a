import { describe, expect, it } from 'vitest'
import type { AwayNotice } from '../../src/api/client'
import { emptyAway, givenAway, languagesLeft, LANGUAGES, standing } from '../../src/lib/away'

const kept: AwayNotice = {
  on: true,
  holds: true,
  begins: 1,
  ends: 2,
  begins_shown: 'Mon 1 Dec',
  ends_shown: 'Fri 5 Dec',
  days: 3,
  circles: [{ name: 'All', who: 'all', line: '', sentence: '', texts: { '': 'Gone.', de: 'Weg.' } }],
  languages: ['en', 'de', 'fr', 'es'],
  told: [],
  servers: [],
}

describe('the away notice', () => {
  it('is written from what is kept, with its times left as they stand', () => {
    const given = givenAway(kept)
    expect(given).toMatchObject({ on: true, begins: '', ends: '', days: 3 })
    expect(given.circles).toEqual([{ name: 'All', who: 'all', line: '', texts: { '': 'Gone.', de: 'Weg.' } }])
    expect(givenAway({ ...kept, circles: [] })).toEqual(emptyAway())
  })
  it('begins with everybody else told nothing', () => {
    expect(emptyAway().circles.at(-1)).toMatchObject({ who: 'all', texts: {} })
  })
  it('knows in which languages nothing is said yet', () => {
    const [circle] = givenAway(kept).circles
    expect(languagesLeft(circle!, kept.languages)).toEqual(['en', 'fr', 'es'])
    expect(kept.languages.every((one) => LANGUAGES[one])).toBe(true)
  })
  it('says whether it is sent', () => {
    expect(standing(kept)).toBe('Sent until Fri 5 Dec')
    expect(standing({ ...kept, holds: false })).toBe('Sent from Mon 1 Dec until Fri 5 Dec')
    expect(standing({ ...kept, on: false, holds: false })).toBe('Not sent')
  })
})
