// What is followed through, by day: the lines of each day in the order of their times.
import type { FollowUp, OwedLine } from '../api/client'
import { DAY_SECONDS, headingAhead } from './time'

export type FollowMessage = FollowUp['due'][number]['message']

export interface DayLine {
  key: string
  kind: 'due' | 'parked' | 'awaited'
  message: FollowMessage
  at: number
  day: boolean
  answer: boolean
}

export interface FollowDay {
  title: string
  over: boolean
  lines: DayLine[]
}

/** The lines of all days: what is overdue first, then day by day, then what waits for an answer alone. */
export function daysOf(all: FollowUp, they: readonly OwedLine[], now: Date): FollowDay[] {
  const lines: DayLine[] = [
    ...all.due.map(({ message, state }) => line('due', message, state.at, state.day, false)),
    ...all.parked.map(({ message, state }) => line('parked', message, state.at, false, state.answer)),
    ...they.filter((one) => one.until).map((one) => line('awaited', one.message, one.until, false, false)),
  ].sort((a, b) => a.at - b.at || a.message.id - b.message.id)
  const days: FollowDay[] = []
  for (const one of lines) {
    const title = dayTitle(one, all.today, now)
    const last = days.find((day) => day.title === title)
    if (last) last.lines.push(one)
    else days.push({ title, over: title === OVER, lines: [one] })
  }
  const answers = days.findIndex((day) => day.title === ANSWER)
  return answers < 0 ? days : [...days.filter((_, at) => at !== answers), ...days.slice(answers, answers + 1)]
}

const OVER = 'Overdue'
const ANSWER = 'Whenever an answer comes'

function line(
  kind: DayLine['kind'],
  message: FollowMessage,
  at: number,
  day: boolean,
  answer: boolean,
): DayLine {
  return { key: `${kind} ${message.id}`, kind, message, at, day, answer }
}

function dayTitle(one: DayLine, today: number, now: Date): string {
  if (!one.at) return ANSWER
  if (one.kind === 'due' && one.at < today) return OVER
  return headingAhead(one.at, now)
}

/** How far an answer is behind its writer's usual time: 1 is just that, 3 the most that is drawn. */
export function lateness(one: OwedLine, now: number): number {
  return Math.min(3, (now - one.message.time) / Math.max(one.usual || 2 * DAY_SECONDS, 3_600))
}
