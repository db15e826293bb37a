// Pages of a list, changed in place: framework-free, so that it can be reasoned about alone.
import type { Message, Order, Page } from '../api/client'

export interface Pages {
  pages: Page[]
  pageParams: unknown[]
}

interface Sorting {
  order: Order
  unreadFirst: boolean
}

function goesBefore(one: Message, other: Message, { order, unreadFirst }: Sorting): boolean {
  if (unreadFirst && one.seen !== other.seen) return !one.seen
  const a = order === 'time' ? one.time : one.score
  const b = order === 'time' ? other.time : other.score
  return a !== b ? a > b : one.id > other.id
}

/** The pages without some messages. */
export function without(pages: Pages, ids: ReadonlySet<number>): Pages {
  return {
    ...pages,
    pages: pages.pages.map((page) => ({
      ...page,
      messages: page.messages.filter((one) => !ids.has(one.id)),
    })),
  }
}

/** The pages with a message put where it belongs; left alone when that lies beyond what is loaded. */
export function withMessage(pages: Pages, message: Message, sorting: Sorting): Pages {
  const clean = without(pages, new Set([message.id]))
  let placed = false
  const last = clean.pages.length - 1
  const result = clean.pages.map((page, number) => {
    if (placed) return page
    const at = page.messages.findIndex((one) => goesBefore(message, one, sorting))
    if (at < 0 && !(number === last && page.next === '')) return page
    placed = true
    const index = at < 0 ? page.messages.length : at
    return { ...page, messages: [...page.messages.slice(0, index), message, ...page.messages.slice(index)] }
  })
  return { ...clean, pages: result }
}

/** The pages with fields of some messages changed. */
export function changed(pages: Pages, ids: ReadonlySet<number>, fields: Partial<Message>): Pages {
  return {
    ...pages,
    pages: pages.pages.map((page) => ({
      ...page,
      messages: page.messages.map((one) => (ids.has(one.id) ? { ...one, ...fields } : one)),
    })),
  }
}
