import { describe, expect, it } from 'vitest'
import { between, rowsOf } from '../../src/lib/rows'
import { message } from '../made'

const DAY = 86_400
const mail = [
  message(3, { time: 10 * DAY + 5 }),
  message(2, { time: 10 * DAY + 4 }),
  message(1, { time: 9 * DAY }),
]

describe('rows of a list', () => {
  it('have a heading before each day', () => {
    expect(rowsOf(mail, true).map((row) => row.kind)).toEqual(['day', 'message', 'message', 'day', 'message'])
    expect(rowsOf(mail, false).map((row) => row.kind)).toEqual(['message', 'message', 'message'])
  })

  it('are selected from one to another in either direction', () => {
    expect(between(mail, 1, 3)).toEqual([3, 2, 1])
    expect(between(mail, 3, 2)).toEqual([3, 2])
    expect(between(mail, 99, 2)).toEqual([2])
  })
})
