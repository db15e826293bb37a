// What the owner likes to see: at hand in this browser at once, kept by the server (arranged.ts).
import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'
import type { Order } from '../api/client'
import type { Chosen } from '../lib/actions'

export type Theme = 'auto' | 'light' | 'dark'

export interface Appearance {
  reading: 'side' | 'below' | 'off'
  density: 'two' | 'one'
  names: 'name' | 'address' | 'both'
  after: 'next' | 'previous' | 'list'
  /** When a message one came to on the way counts as read; one that is opened does at once, but by hand. */
  markRead: 'at once' | 'after a while' | 'by hand'
  counts: 'unread' | 'all'
  gauge: boolean
  attachments: boolean
  unreadFirst: boolean
  byDay: boolean
  threads: boolean
  evidence: boolean
  textSize: number
  /** Whether the Desk is shown in its trays. */
  inTrays: boolean
  /** Whether a tray with nothing in it takes a line all the same. */
  emptyTrays: boolean
  /** Buckets that are shown by sender or list, and in which order. */
  bySource: Partial<Record<string, 'total' | 'newest'>>
}

export const APPEARANCE: Appearance = {
  reading: 'side',
  density: 'two',
  names: 'name',
  after: 'next',
  markRead: 'after a while',
  counts: 'unread',
  gauge: true,
  attachments: true,
  unreadFirst: false,
  byDay: true,
  threads: true,
  evidence: false,
  textSize: 100,
  inTrays: true,
  emptyTrays: true,
  bySource: {},
}

export const theme = useLocalStorage<Theme>('hieranome-theme', 'auto')
export const singleKeys = useLocalStorage('hieranome-single-keys', true)
export const chosenKeys = useLocalStorage<Chosen>('hieranome-keys', {})
export const order = useLocalStorage<Order>('hieranome-order', 'importance')
export const appearance = useLocalStorage<Appearance>('hieranome-appearance', APPEARANCE, {
  mergeDefaults: true,
})

/** Which lists of the spine are folded away in this browser. */
export const folded = useLocalStorage('hieranome-folded', { tags: false, folders: false, searches: false })

/** Pages whose line about what they are for was closed. */
export const closedNotes = useLocalStorage<string[]>('hieranome-closed-notes', [])

/** The latest search lines, newest first. */
export const recent = useLocalStorage<string[]>('hieranome-recent-searches', [])
const RECENT = 8

/** Keeps a search line among the recent ones. */
export function remember(line: string): void {
  recent.value = [line, ...recent.value.filter((one) => one !== line)].slice(0, RECENT)
}

/** The one after it in a row of choices, the first after the last. */
export function following<T>(all: readonly T[], one: T): T {
  return all[(all.indexOf(one) + 1) % all.length] ?? one
}

/** Keeps the page's theme at what is wished. */
export function useTheme(): void {
  const dark = usePreferredDark()
  const wanted = computed(() => (theme.value === 'auto' ? (dark.value ? 'dark' : 'light') : theme.value))
  watchEffect(() => document.documentElement.setAttribute('data-bs-theme', wanted.value))
}
