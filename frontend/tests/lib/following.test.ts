import { describe, expect, it } from 'vitest'
import type { Followed } from '../../src/api/client'
import { followWords, isOver } from '../../src/lib/following'

const NOON = new Date(2026, 10, 25, 12, 0)
const at = (day: number, hour: number) => new Date(2026, 10, day, hour).getTime() / 1000
const noted = (kind: Followed['kind'], fields: Partial<Followed> = {}): Followed => ({
  kind,
  at: at(25, 15),
  day: false,
  answer: false,
  since: at(22, 15),
  ...fields,
})

describe('what is followed through', () => {
  it('says due dates by how near they are', () => {
    expect(followWords([noted('due')], NOON)).toEqual(['due today 15:00'])
    expect(followWords([noted('due', { at: at(26, 0), day: true })], NOON)).toEqual(['due tomorrow'])
    expect(followWords([noted('due', { at: at(27, 9) })], NOON)).toEqual(['due Fri 09:00'])
    expect(followWords([noted('due', { at: at(24, 0), day: true })], NOON)).toEqual([
      'overdue since yesterday',
    ])
  })

  it('counts a whole day until it ends', () => {
    const today = noted('due', { at: at(25, 0), day: true })
    expect(isOver(today, at(25, 23))).toBe(false)
    expect(isOver(today, at(26, 0))).toBe(true)
  })

  it('says what mail waits for, and what brought it back', () => {
    expect(followWords([noted('parked', { at: at(30, 8) })], NOON)).toEqual(['parked until Mon 08:00'])
    expect(followWords([noted('parked', { at: 0 })], NOON)).toEqual(['parked until an answer'])
    expect(followWords([noted('back')], NOON)).toEqual(['back after 3 days'])
    expect(followWords([noted('back', { answer: true })], NOON)).toEqual(['back: an answer came'])
    expect(followWords([noted('unanswered'), noted('settled')], NOON)).toEqual(['nobody answered in time'])
  })
})
