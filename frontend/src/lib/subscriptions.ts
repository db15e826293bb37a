// Subscriptions in order and as found: what they are sorted and searched by.
import type { Subscription } from '../api/client'
import { ordered } from './columns'

/** What a column shows of a subscription and is sorted by. */
export const COLUMNS = [
  { name: 'name', title: 'From', of: (one: Subscription) => one.name.toLowerCase() },
  { name: 'weekly', title: 'A week', of: (one: Subscription) => -one.weekly },
  { name: 'total', title: 'In all', of: (one: Subscription) => -one.total },
  { name: 'size', title: 'Size', of: (one: Subscription) => -one.size },
  { name: 'read', title: 'Read', of: (one: Subscription) => one.read },
  { name: 'last_read', title: 'Last read', of: (one: Subscription) => one.last_read },
  { name: 'first_seen', title: 'Since', of: (one: Subscription) => one.first_seen },
  { name: 'address', title: 'Through', of: (one: Subscription) => one.addresses[0] ?? '' },
] as const
export type Column = (typeof COLUMNS)[number]['name']

/** Whether the owner has still to decide: not where that was done, nor where it was asked to stop and does. */
export function isOpen(one: Subscription): boolean {
  return !one.belongs && (!one.unsubscribed || one.came_back > 0)
}

/** In the order of a column, or against it; of equals the one with more mail comes first. */
export function sorted(all: readonly Subscription[], column: Column, against: boolean): Subscription[] {
  const by = COLUMNS.find((one) => one.name === column) ?? COLUMNS[0]
  return ordered(all, by, against, (a, b) => b.total - a.total || a.key.localeCompare(b.key))
}

const SIZES = { '': 1, b: 1, kb: 1e3, mb: 1e6, gb: 1e9 } as const

/** A number as it is written in the field, with the unit that what is compared has; undefined for none. */
function numberOf(written: string): number | undefined {
  const found = /^(\d+(?:\.\d+)?)(|%|b|kb|mb|gb)$/.exec(written)
  if (!found) return undefined
  return Number(found[1]) * (SIZES[found[2] as keyof typeof SIZES] ?? 1)
}

/** When a year, month or day begins, in Unix seconds; undefined for what is none. */
function dayOf(written: string): number | undefined {
  const found = /^(\d{4})(?:-(\d\d))?(?:-(\d\d))?$/.exec(written)
  if (!found) return undefined
  return new Date(Number(found[1]), Number(found[2] ?? 1) - 1, Number(found[3] ?? 1)).getTime() / 1000
}

/** What the field compares, as in `size>1MB`: by the names of the columns. */
export const COMPARED = {
  week: { of: (one: Subscription) => one.weekly, read: numberOf },
  all: { of: (one: Subscription) => one.total, read: numberOf },
  size: { of: (one: Subscription) => one.size, read: numberOf },
  read: { of: (one: Subscription) => 100 * one.read, read: numberOf },
  last: { of: (one: Subscription) => one.last_read, read: dayOf },
  since: { of: (one: Subscription) => one.first_seen, read: dayOf },
} as const

/** What a word of the field asks of a subscription. */
function asked(word: string): (one: Subscription, text: string) => boolean {
  const [, name, sign, written] = /^([a-z]+)([<>])(.+)$/.exec(word) ?? []
  const compared = name && Object.hasOwn(COMPARED, name) ? COMPARED[name as keyof typeof COMPARED] : undefined
  const bound = compared?.read(written ?? '')
  if (!compared || bound === undefined) return (_, text) => text.includes(word)
  return (one) => (sign === '<' ? compared.of(one) < bound : compared.of(one) >= bound)
}

/** Those that hold every word looked for, in their name, domain, latest subject or the address they came to, and are on
 * the right side of every bound, which itself is above. */
export function matching(all: readonly Subscription[], words: string): readonly Subscription[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean).map(asked)
  if (!wanted.length) return all
  return all.filter((one) => {
    const text = [one.name, one.domain, one.subject, ...one.addresses, ...one.keys].join(' ').toLowerCase()
    return wanted.every((holds) => holds(one, text))
  })
}

/** The weeks as bars from the ground up, in a box of 2 a week by 14: a path to be stroked. */
export function bars(weeks: readonly number[]): string {
  const most = Math.max(1, ...weeks)
  return weeks
    .map((count, at) => (count ? `M${at * 2 + 1} 14V${14 - Math.max(1.5, (13 * count) / most)}` : ''))
    .join('')
}

/** What came of asking a sender to stop. */
export const ASKED = {
  asked: 'asked',
  accepted: 'asked, and its server took it',
  page: 'not done',
  failed: 'not done',
  unreached: 'not done',
  sent: 'asked by a message',
} as const

/** Whether a subscription can be ended from here; else its page is opened, or there is no way. */
export function doesItself(offer: { way: string } | null | undefined): boolean {
  return offer?.way === 'post' || offer?.way === 'mailto'
}
