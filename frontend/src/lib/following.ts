// What is followed through of a message, in words.
import type { Followed } from '../api/client'
import { DAY_SECONDS, dayAhead, lastingWords } from './time'

/** A day or time to come, or just passed: today, tomorrow, the weekday within a week, else the date; the hour with it
 * where no whole day is meant. */
export function whenWords(at: number, day: boolean, now = new Date()): string {
  return dayAhead(at, !day, now)
}

/** Whether what is due is overdue: a whole day once it has ended. */
export function isOver(one: Followed, now: number): boolean {
  return one.at + (one.day ? DAY_SECONDS : 0) <= now
}

/** What is followed through of a message, as short as a row has room for. */
export function followWords(follow: readonly Followed[], now = new Date()): string[] {
  const seconds = now.getTime() / 1000
  return follow.flatMap((one) => {
    if (one.kind === 'due')
      return [`${isOver(one, seconds) ? 'overdue since' : 'due'} ${whenWords(one.at, one.day, now)}`]
    if (one.kind === 'parked')
      return [one.at ? `parked until ${whenWords(one.at, false, now)}` : 'parked until an answer']
    if (one.kind === 'back')
      return [one.answer ? 'back: an answer came' : `back after ${lastingWords(one.at - one.since)}`]
    if (one.kind === 'awaited') return [`told if no answer by ${whenWords(one.at, one.day, now)}`]
    return one.kind === 'unanswered' ? ['nobody answered in time'] : []
  })
}
