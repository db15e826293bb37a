// Old mail: its columns, ages in words, and the search that shows what is in a row.
import type { OldMailRow } from '../api/client'
import { ordered } from './columns'

const YEAR = 52
const MONTH = 4.33

/** What a column shows of a row of old mail and is ordered by. */
export const COLUMNS = [
  { name: 'name', title: 'From', of: (one: OldMailRow) => one.name.toLowerCase() },
  { name: 'free', title: 'Messages', of: (one: OldMailRow) => -one.free },
  { name: 'size', title: 'Size', of: (one: OldMailRow) => -one.free_size },
  { name: 'read', title: 'Read', of: (one: OldMailRow) => one.read },
  { name: 'answered', title: 'Answered', of: (one: OldMailRow) => one.answered },
  { name: 'years', title: 'Years', of: (one: OldMailRow) => one.oldest },
  { name: 'yearly', title: 'A year', of: (one: OldMailRow) => -one.yearly },
  { name: 'kept', title: 'Protected', of: (one: OldMailRow) => -one.kept },
] as const
export type Column = (typeof COLUMNS)[number]['name']

/** In the order of a column, or against it; of equals the one that frees more comes first. Without a column as they
 * came: what nobody ever opened first. */
export function sorted(
  rows: readonly OldMailRow[],
  column: Column | undefined,
  against: boolean,
): readonly OldMailRow[] {
  const by = COLUMNS.find((one) => one.name === column)
  if (!by) return rows
  return ordered(rows, by, against, (a, b) => b.free_size - a.free_size || a.key.localeCompare(b.key))
}

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
