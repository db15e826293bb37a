import { describe, expect, it } from 'vitest'
import { bytes, dayName, exact, lasting, near } from '../../src/lib/time'

const NOW = new Date(2026, 2, 11, 15, 30)
const at = (...when: [number, number, number, number, number]) => new Date(...when).getTime() / 1000

describe('a time near', () => {
  it('is the hour today, a weekday this week, else a date', () => {
    expect(near(at(2026, 2, 11, 9, 5), NOW)).toMatch(/^09:05$/)
    expect(near(at(2026, 2, 10, 9, 5), NOW)).toMatch(/^yesterday 09:05$/)
    expect(near(at(2026, 2, 7, 9, 5), NOW)).toMatch(/^Sat 09:05$/)
    expect(near(at(2026, 0, 2, 9, 5), NOW)).not.toMatch(/2026|:/)
    expect(near(at(2025, 0, 2, 9, 5), NOW)).toMatch(/2025/)
  })

  it('has a whole form and one for headings', () => {
    expect(exact(at(2026, 2, 11, 9, 5))).toMatch(/2026/)
    expect([0, 1, 3].map((days) => dayName(at(2026, 2, 11 - days, 9, 5), NOW))).toEqual([
      'Today',
      'Yesterday',
      'Sunday',
    ])
  })
})

describe('amounts and spans', () => {
  it('are written in their unit', () => {
    expect([999, 1_500, 2_340_000].map(bytes)).toEqual(['999 B', '2 KB', '2.3 MB'])
  })

  it('say when an event has no time, and end a whole day on that day', () => {
    expect(lasting(0, 0, false)).toBe('no time given')
    const day = Date.UTC(2026, 2, 11) / 1000
    expect(lasting(day, day + 86_400, true)).toMatch(/11/)
    expect(lasting(day, day + 3600, false, 'medium').length).toBeLessThan(
      lasting(day, day + 3600, false).length,
    )
    expect(lasting(day, day + 86_400, true)).not.toMatch(/12/)
  })
})
