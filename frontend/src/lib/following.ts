// What is followed through of a message, in words.
import type { Followed, Message } from '../api/client'
import { DAY_SECONDS, dayAhead, lastingWords } from './time'

/** Whether what is due is overdue: a whole day once it has ended. */
export function isOver(one: Followed, now: number): boolean {
  return one.at + (one.day ? DAY_SECONDS : 0) <= now
}

/** Whether a message has a due date: it is flagged as well, and the date says more. */
export function isDue(message: Pick<Message, 'follow'>): boolean {
  return message.follow.some((one) => one.kind === 'due')
}

/** What is followed through of a message, as short as a row has room for. */
export function followWords(follow: readonly Followed[], now = new Date()): string[] {
  const seconds = now.getTime() / 1000
  return follow.flatMap((one) => {
    if (one.kind === 'due')
      return [`${isOver(one, seconds) ? 'overdue since' : 'due'} ${dayAhead(one.at, !one.day, now)}`]
    if (one.kind === 'parked')
      return [one.at ? `parked until ${dayAhead(one.at, true, now)}` : 'parked until an answer']
    if (one.kind === 'back')
      return [one.answer ? 'back: an answer came' : `back after ${lastingWords(one.at - one.since)}`]
    if (one.kind === 'awaited') return [`reminder if no answer by ${dayAhead(one.at, !one.day, now)}`]
    return one.kind === 'unanswered' ? ['nobody answered in time'] : []
  })
}
