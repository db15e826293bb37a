// Dates: relative when near, exact on hover.
const DAY = 86_400_000

function midnight(at: Date): number {
  return new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime()
}

/** Short form for a list: the hour today, the weekday this week, else the date. */
export function near(seconds: number, now = new Date()): string {
  const at = new Date(seconds * 1000)
  const days = Math.round((midnight(now) - midnight(at)) / DAY)
  const clock = at.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false })
  if (days === 0) return clock
  if (days === 1) return `yesterday ${clock}`
  if (days > 1 && days < 7) return `${at.toLocaleDateString([], { weekday: 'short' })} ${clock}`
  const year = at.getFullYear() === now.getFullYear() ? undefined : ('numeric' as const)
  return at.toLocaleDateString([], { day: 'numeric', month: 'short', year })
}

/** The whole date and time. */
export function exact(seconds: number): string {
  return new Date(seconds * 1000).toLocaleString([], { dateStyle: 'full', timeStyle: 'short' })
}

/** Bytes in words. */
export function bytes(count: number): string {
  if (count < 1000) return `${count} B`
  if (count < 1_000_000) return `${Math.round(count / 1000)} KB`
  return `${(count / 1_000_000).toFixed(1)} MB`
}
