// The rows of a list: messages, with a heading before each day where they are grouped.
import type { Message } from '../api/client'
import { dayName } from './time'

export type Row = { kind: 'message'; message: Message } | { kind: 'day'; title: string; key: string }

export function rowsOf(messages: readonly Message[], byDay: boolean): Row[] {
  if (!byDay) return messages.map((message) => ({ kind: 'message', message }))
  const rows: Row[] = []
  let day = ''
  for (const message of messages) {
    const at = new Date(message.time * 1000)
    const key = `${at.getFullYear()}-${at.getMonth()}-${at.getDate()}`
    if (key !== day) rows.push({ kind: 'day', title: dayName(message.time), key })
    day = key
    rows.push({ kind: 'message', message })
  }
  return rows
}

/** The ids from one message to another, both included, in either direction. */
export function between(messages: readonly Message[], from: number, to: number): number[] {
  const a = messages.findIndex((one) => one.id === from)
  const b = messages.findIndex((one) => one.id === to)
  if (a < 0 || b < 0) return [to]
  return messages.slice(Math.min(a, b), Math.max(a, b) + 1).map((one) => one.id)
}
