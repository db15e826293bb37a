import { describe, expect, it } from 'vitest'
import type { Message, QueueShown } from '../../src/api/client'
import { age, beside, cells, emptyQueue, givenQueue } from '../../src/lib/queues'

const row = (id: number) => ({ message: { id } as Message, since: 0 })
const column = (name: string, ...ids: number[]) => ({ name, tag: 0, total: ids.length, rows: ids.map(row) })
const shown: QueueShown = {
  id: 1,
  name: 'Visas',
  problem: '',
  columns: [column('new', 1, 2, 3), column('asked'), column('granted', 4)],
}

describe('going through columns', () => {
  it('passes empty ones, keeps the row where there is one, and stops at the ends', () => {
    const all = cells(shown)
    expect(all.map((one) => one.key)).toEqual(['1', '2', '3', '4'])
    expect(beside(all, '3', 1)).toBe('4')
    expect(beside(all, '4', -1)).toBe('1')
    expect(beside(all, '4', 1)).toBe('4')
    expect(beside(all, 'gone', 1)).toBe('1')
    expect(beside([], '1', 1)).toBe('')
    expect(cells(undefined)).toEqual([])
  })
})

describe('a queue', () => {
  it('is written with states of its own', () => {
    expect(emptyQueue().states).toHaveLength(3)
    const states = [
      { name: 'new', tag: 0, total: 3 },
      { name: 'asked', tag: 7, total: 1 },
    ]
    expect(givenQueue({ id: 2, name: 'Visas', of: 'tag', target: '5', states })).toEqual({
      name: 'Visas',
      of: 'tag',
      target: '5',
      states: [
        { name: 'new', tag: 0 },
        { name: 'asked', tag: 7 },
      ],
    })
  })
  it('tells how long something stands in a state', () => {
    expect([age(0, 60), age(0, 7_200), age(0, 3 * 86_400 + 5), age(10, 0)]).toEqual([
      'now',
      '2 h',
      '3 d',
      'now',
    ])
  })
})
