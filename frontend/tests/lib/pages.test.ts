import { describe, expect, it } from 'vitest'
import { changed, withMessage, without, type Pages } from '../../src/lib/pages'
import { message, page } from '../made'

const two: Pages = {
  pages: [
    page([message(5, { score: 0.9 }), message(3, { score: 0.5 })], 'more'),
    page([message(1, { score: 0.2 })]),
  ],
  pageParams: ['', 'more'],
}
const ids = (pages: Pages) => pages.pages.map((one) => one.messages.map((each) => each.id))
const byScore = { order: 'importance', unreadFirst: false } as const

describe('pages changed in place', () => {
  it('lose messages and keep their shape', () => {
    expect(ids(without(two, new Set([5, 1])))).toEqual([[3], []])
    expect(ids(two)).toEqual([[5, 3], [1]])
  })

  it('change fields of some messages alone', () => {
    const now = changed(two, new Set([3]), { seen: true })
    expect(now.pages[0]!.messages.map((one) => one.seen)).toEqual([false, true])
    expect(two.pages[0]!.messages[1]!.seen).toBe(false)
  })
})

describe('a message put into pages', () => {
  it('stands where the order says', () => {
    expect(ids(withMessage(two, message(9, { score: 0.6 }), byScore))).toEqual([[5, 9, 3], [1]])
    expect(
      ids(withMessage(two, message(9, { time: 0, score: 0.99 }), { ...byScore, order: 'time' })),
    ).toEqual([
      [5, 3],
      [1, 9],
    ])
  })

  it('stands before what is read where the unread come first', () => {
    const read = changed(two, new Set([5, 3, 1]), { seen: true })
    expect(ids(withMessage(read, message(9, { score: 0.1 }), { ...byScore, unreadFirst: true }))[0]).toEqual([
      9, 5, 3,
    ])
  })

  it('moves there when it stood elsewhere', () => {
    expect(ids(withMessage(two, message(1, { score: 0.95 }), byScore))).toEqual([[1, 5, 3], []])
  })

  it('is left alone beyond what is loaded', () => {
    const cut: Pages = { pages: [two.pages[0]!], pageParams: [''] }
    expect(ids(withMessage(cut, message(9, { score: 0.1 }), byScore))).toEqual([[5, 3]])
  })
})
