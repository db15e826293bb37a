import { describe, expect, it } from 'vitest'
import { doubt, percent, position, shown, sideWords } from '../../src/lib/gauge'

describe('the scale of the gauge', () => {
  it('has a half in its middle and opens up the low end', () => {
    expect(position(0.5)).toBeCloseTo(0.5)
    expect(position(0.1) - position(0.01)).toBeGreaterThan(position(0.6) - position(0.5))
  })

  it('keeps certainties on the track', () => {
    expect(position(0)).toBe(position(0.004))
    expect(position(0)).toBeCloseTo(0)
    expect(position(1)).toBeCloseTo(1)
  })

  it('grows with importance', () => {
    const all = [0, 0.01, 0.1, 0.4, 0.8, 0.99].map(position)
    expect([...all].sort((a, b) => a - b)).toEqual(all)
  })

  it('is written in whole numbers and percents', () => {
    expect([shown(0.126), percent(0.5), doubt(0.4, 0.6), doubt(0.5, 0.5)]).toEqual([13, '50.00%', 10, 1])
    expect([shown(0.9999), shown(0)]).toEqual([99, 1])
  })

  it('says on which side of the Desk a message belongs, and how sure that is', () => {
    const bounds = { ask: 0.1, desk: 0.17, quite: 0.97, fairly: 0.8 }
    const told = [
      [0.01, 0.005, 0.02],
      [0.02, 0.01, 0.04],
      [0.16, 0.1, 0.25],
      [0.17, 0.1, 0.25],
      [0.9, 0.85, 0.95],
      [0.99, 0.98, 0.995],
    ].map(([score, low, high]) => sideWords(score!, low!, high!, bounds))
    expect(told).toEqual([
      'quite sure it can wait',
      'fairly sure it can wait',
      'not sure it can wait',
      'not sure it is for the Desk',
      'fairly sure it is for the Desk',
      'quite sure it is for the Desk',
    ])
  })
})
