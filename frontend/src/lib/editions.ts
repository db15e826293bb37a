// An edition as rows one goes through: all of it, its groups, their messages.
import type { OpenedEdition } from '../api/client'

export type Entry = OpenedEdition['groups'][number]['newest']
export type EditionGroup = OpenedEdition['groups'][number]

export interface Row {
  key: string
  kind: 'all' | 'group' | 'entry'
  group?: EditionGroup
  /** The messages a verb on this row is about. */
  entries: readonly Entry[]
}

/** The rows of an edition in order; of a group only the newest message, unless it is opened. */
export function rowsOfEdition(edition: OpenedEdition | undefined, opened: ReadonlySet<string>): Row[] {
  if (!edition) return []
  const every = edition.groups.flatMap((group) => [group.newest, ...group.others])
  const rows: Row[] = [{ key: 'all', kind: 'all', entries: every }]
  edition.groups.forEach((group, at) => {
    const key = `group-${at}`
    const all = [group.newest, ...group.others]
    rows.push({ key, kind: 'group', group, entries: all })
    for (const entry of opened.has(key) ? all : [group.newest])
      rows.push({ key: `entry-${entry.message}`, kind: 'entry', group, entries: [entry] })
  })
  return rows
}

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const WEEKDAYS = 31
const EVERY_DAY = 127

/** The days of the week of a plan, Monday the lowest bit, in words. */
export function daysWords(days: number): string {
  if (days === EVERY_DAY) return 'every day'
  if (days === WEEKDAYS) return 'weekdays'
  return DAYS.filter((_, at) => (days >> at) & 1).join(', ')
}

export const DAY_NAMES = DAYS
