import { expect, it } from 'vitest'
import type { InTrays } from '../../src/api/client'
import { changedInTrays, withoutInTrays } from '../../src/lib/trays'
import { message } from '../made'

const tray = {
  kind: 'rest',
  name: 'The rest',
  line: '',
  order: 'time',
  rows: 2,
  folded: false,
  days: 3,
  beside: false,
} as const
const desk: InTrays = {
  trays: [
    {
      tray,
      total: 3,
      unread: 2,
      numbers: [1, 2, 3],
      messages: [message(1), message(2, { seen: true })],
      problem: '',
    },
    { tray: { ...tray, kind: 'dealt' }, total: 1, unread: 0, numbers: [9], messages: [], problem: '' },
  ],
  older: 4,
}

it('takes messages out of their trays, counted or only numbered', () => {
  const [rest, dealt] = withoutInTrays(desk, new Set([1, 3])).trays
  expect(rest).toMatchObject({ total: 1, unread: 1, numbers: [2] })
  expect(rest?.messages.map((one) => one.id)).toEqual([2])
  expect(dealt).toBe(desk.trays[1])
})

it('changes messages where they stand', () => {
  const [rest] = changedInTrays(desk, new Set([1]), { flagged: true }).trays
  expect(rest?.messages.map((one) => one.flagged)).toEqual([true, false])
  expect(desk.trays[0]?.messages[0]?.flagged).toBe(false)
})
