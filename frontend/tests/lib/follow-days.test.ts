import { describe, expect, it } from 'vitest'
import type { FollowUp } from '../../src/api/client'
import { daysOf, lateness } from '../../src/lib/follow-days'
import { message } from '../made'

const NOON = new Date(2026, 10, 25, 12, 0)
const at = (day: number, hour: number) => new Date(2026, 10, day, hour).getTime() / 1000
const followed = (id: number, kind: 'due' | 'parked', when: number, day = false) => ({
  message: message(id),
  state: { kind, at: when, day, answer: false, since: 0 },
})
const owed = (id: number, until: number, usual = 0, age = 0) => ({
  message: message(id, { time: at(25, 12) - age }),
  sentence: 'Which one?',
  person: 'Ilse',
  usual,
  until,
  proposed: '',
  promised: false,
  missed: false,
})
const all = (fields: Partial<FollowUp>): FollowUp => ({
  due: [],
  parked: [],
  today: at(25, 0),
  ...fields,
})

describe('the days of what is followed through', () => {
  it('puts what is overdue first, day by day then, and what waits for an answer alone last', () => {
    const days = daysOf(
      all({
        due: [
          followed(1, 'due', at(23, 9)),
          followed(2, 'due', at(26, 0), true),
          followed(3, 'due', at(25, 0), true),
        ],
        parked: [followed(4, 'parked', 0), followed(5, 'parked', at(26, 8))],
      }),
      [owed(6, at(28, 8)), owed(7, 0)],
      NOON,
    )
    expect(days.map((day) => [day.title, day.lines.map((one) => one.message.id)])).toEqual([
      ['Overdue', [1]],
      ['Today', [3]],
      ['Tomorrow', [2, 5]],
      ['Saturday, November 28', [6]],
      ['Whenever an answer comes', [4]],
    ])
  })

  it('measures lateness by the usual time, three times at most', () => {
    expect(lateness(owed(1, 0, 7_200, 3_600), at(25, 12))).toBeCloseTo(0.5)
    expect(lateness(owed(1, 0, 7_200, 90_000), at(25, 12))).toBe(3)
  })
})
