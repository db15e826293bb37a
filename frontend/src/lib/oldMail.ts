// Ages of mail in words, and the search that shows what is in a row of old mail.
const YEAR = 52
const MONTH = 4.33

/** An age in weeks as one says it. */
export function ageWords(weeks: number): string {
  if (weeks === 0) return 'all of it'
  if (weeks < YEAR) {
    const months = Math.round(weeks / MONTH)
    return months === 1 ? 'a month' : `${months} months`
  }
  const years = Math.round(weeks / YEAR)
  return years === 1 ? 'a year' : `${years} years`
}

/** The line that finds the mail of a row beyond an age. */
export function lineOf(key: string, weeks: number): string {
  const [kind, ...rest] = key.split(':')
  const named = rest.join(':')
  const what = kind === 'list' && named ? `list:"${named}"` : `from:"${named || key}"`
  return weeks ? `${what} before:${weeks}w` : what
}
