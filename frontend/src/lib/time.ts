// Dates: relative when near, exact on hover. Formatters are made once: making one costs more than a row.
const DAY = 86_400_000
const CLOCK = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit', hour12: false })
const WEEKDAY = new Intl.DateTimeFormat(undefined, { weekday: 'short' })
const DATE = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' })
const DATE_AND_YEAR = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', year: 'numeric' })
const LONG_WEEKDAY = new Intl.DateTimeFormat(undefined, { weekday: 'long' })
const LONG_DATE = new Intl.DateTimeFormat(undefined, { weekday: 'long', day: 'numeric', month: 'long' })
const EXACT = new Intl.DateTimeFormat(undefined, { dateStyle: 'full', timeStyle: 'short' })

function midnight(at: Date): number {
  return new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime()
}

/** Short form for a list: the hour today, the weekday this week, else the date. */
export function near(seconds: number, now = new Date()): string {
  const at = new Date(seconds * 1000)
  const days = Math.round((midnight(now) - midnight(at)) / DAY)
  if (days === 0) return CLOCK.format(at)
  if (days === 1) return `yesterday ${CLOCK.format(at)}`
  if (days > 1 && days < 7) return `${WEEKDAY.format(at)} ${CLOCK.format(at)}`
  return (at.getFullYear() === now.getFullYear() ? DATE : DATE_AND_YEAR).format(at)
}

/** The hour and minute of a time. */
export function clockOf(seconds: number): string {
  return CLOCK.format(new Date(seconds * 1000))
}

/** Seconds of a day. */
export const DAY_SECONDS = DAY / 1000

/** A day to come or just passed: today, tomorrow, yesterday, the weekday within a week, else the date; with its hour. */
export function dayAhead(seconds: number, withHour: boolean, now = new Date()): string {
  const at = new Date(seconds * 1000)
  const days = Math.round((midnight(at) - midnight(now)) / DAY)
  const named = { '-1': 'yesterday', 0: 'today', 1: 'tomorrow' }[days]
  const day =
    named ??
    (days > 1 && days < 7
      ? WEEKDAY.format(at)
      : (at.getFullYear() === now.getFullYear() ? DATE : DATE_AND_YEAR).format(at))
  return withHour ? `${day} ${CLOCK.format(at)}` : day
}

/** A day to come as a heading: today, tomorrow, the weekday and the date. */
export function headingAhead(seconds: number, now = new Date()): string {
  const at = new Date(seconds * 1000)
  const days = Math.round((midnight(at) - midnight(now)) / DAY)
  if (days === 0) return 'Today'
  if (days === 1) return 'Tomorrow'
  return (at.getFullYear() === now.getFullYear() ? LONG_DATE : DATE_AND_YEAR).format(at)
}

/** How long something lasted, in its largest unit. */
export function lastingWords(seconds: number): string {
  const [count, unit] =
    seconds >= DAY_SECONDS
      ? [seconds / DAY_SECONDS, 'day']
      : seconds >= 3600
        ? [seconds / 3600, 'hour']
        : [seconds / 60, 'minute']
  const whole = Math.max(1, Math.round(count))
  return `${whole} ${unit}${whole === 1 ? '' : 's'}`
}

/** The whole date and time. */
export function exact(seconds: number): string {
  return EXACT.format(new Date(seconds * 1000))
}

/** Bytes in words. */
export function bytes(count: number): string {
  if (count < 1000) return `${count} B`
  if (count < 1_000_000) return `${Math.round(count / 1000)} KB`
  if (count < 1_000_000_000) return `${(count / 1_000_000).toFixed(1)} MB`
  return `${(count / 1_000_000_000).toFixed(1)} GB`
}

/** A day as a heading: today, yesterday, the weekday this week, else the date. */
export function dayName(seconds: number, now = new Date()): string {
  const at = new Date(seconds * 1000)
  const days = Math.round((midnight(now) - midnight(at)) / DAY)
  if (days === 0) return 'Today'
  if (days === 1) return 'Yesterday'
  if (days > 1 && days < 7) return LONG_WEEKDAY.format(at)
  return (at.getFullYear() === now.getFullYear() ? LONG_DATE : DATE_AND_YEAR).format(at)
}

/** From when to when an event lasts; days of a whole-day event are days of UTC. */
export function lasting(
  start: number,
  end: number,
  allDay: boolean,
  dateStyle: 'full' | 'medium' = 'full',
): string {
  if (!start) return 'no time given'
  const format = new Intl.DateTimeFormat(
    undefined,
    allDay ? { dateStyle, timeZone: 'UTC' } : { dateStyle, timeStyle: 'short' },
  )
  const last = allDay ? end - 1 : end
  return last > start
    ? format.formatRange(new Date(start * 1000), new Date(last * 1000))
    : format.format(new Date(start * 1000))
}
