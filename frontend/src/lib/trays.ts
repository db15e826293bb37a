// The Desk in trays as it is loaded, with messages taken out or changed before the server has answered.
import type { InTrays, Message } from '../api/client'

/** The trays without some messages; counts follow. */
export function withoutInTrays(desk: InTrays, ids: ReadonlySet<number>): InTrays {
  const trays = desk.trays.map((one) => {
    const numbers = one.numbers.filter((id) => !ids.has(id))
    const gone = one.total - numbers.length
    if (!gone) return one
    const unread = one.messages.filter((message) => ids.has(message.id) && !message.seen).length
    return {
      ...one,
      numbers,
      total: numbers.length,
      unread: Math.max(0, one.unread - unread),
      messages: one.messages.filter((message) => !ids.has(message.id)),
    }
  })
  return { ...desk, trays }
}

/** The trays with fields of some messages changed. */
export function changedInTrays(desk: InTrays, ids: ReadonlySet<number>, fields: Partial<Message>): InTrays {
  const trays = desk.trays.map((one) => {
    const messages = one.messages.map((message) => (ids.has(message.id) ? { ...message, ...fields } : message))
    const seen = messages.filter((message, at) => message.seen && !one.messages[at]?.seen).length
    const unseen = messages.filter((message, at) => !message.seen && one.messages[at]?.seen).length
    return { ...one, messages, unread: Math.max(0, one.unread - seen + unseen) }
  })
  return { ...desk, trays }
}
