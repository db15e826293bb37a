// Queues: what is written of one, how old a message is in its state, and going through columns.
import type { Message, Queue, QueueGiven, QueueShown } from '../api/client'

const HOUR = 3_600
const DAY = 24 * HOUR

/** What is written first. */
export function emptyQueue(of: QueueGiven['of'] = 'bucket', target = 'desk'): QueueGiven {
  return {
    name: '',
    of,
    target,
    states: ['To do', 'Under way', 'Done'].map((name) => ({ name, tag: 0 })),
  }
}

/** A kept queue as the form takes it. */
export function givenQueue({ name, of, target, states }: Queue): QueueGiven {
  return { name, of, target, states: states.map((one) => ({ name: one.name, tag: one.tag })) }
}

/** How long something stands where it does. */
export function age(since: number, now: number): string {
  const passed = Math.max(0, now - since)
  if (passed >= DAY) return `${Math.floor(passed / DAY)} d`
  return passed >= HOUR ? `${Math.floor(passed / HOUR)} h` : 'now'
}

/** A row of a queue with the column it stands in and how far down. */
export interface Cell {
  key: string
  column: number
  row: number
  message: Message
  since: number
}

/** Every row, column by column. */
export function cells(shown: QueueShown | undefined): Cell[] {
  return (shown?.columns ?? []).flatMap((one, column) =>
    one.rows.map(({ message, since }, row) => ({ key: String(message.id), column, row, message, since })),
  )
}

/** The row beside one, in the next column to a side that has any; the same where none has. */
export function beside(all: readonly Cell[], key: string, by: 1 | -1): string {
  const here = all.find((one) => one.key === key)
  if (!here) return all[0]?.key ?? ''
  const columns = [...new Set(all.map((one) => one.column))].sort((a, b) => by * (a - b))
  const next = columns.find((one) => by * (one - here.column) > 0)
  const there = all.filter((one) => one.column === next)
  return there[Math.min(here.row, there.length - 1)]?.key ?? key
}
