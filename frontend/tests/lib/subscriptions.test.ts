import { describe, expect, it } from 'vitest'
import type { Subscription } from '../../src/api/client'
import { bars, isOpen, matching, sorted } from '../../src/lib/subscriptions'

function made(name: string, changes: Partial<Subscription> = {}): Subscription {
  const plain = {
    key: `list:${name}`, keys: [`list:${name}`], sign: 'list', name, domain: `${name}.example`, total: 3, size: 10,
    read: 0.5, answered: 0, first_seen: 1, last_read: 0, last_seen: 2, subject: '', weeks: [], weekly: 1,
    addresses: ['me@x.example'], belongs: '', unsubscribed: 0, came_back: 0,
  } as const // prettier-ignore
  return { ...plain, ...changes }
}

describe('the order of subscriptions', () => {
  const all = [made('b', { total: 5 }), made('a', { total: 5 }), made('c', { total: 9, read: 0 })]

  it('puts most mail first, and equals by their keys', () => {
    expect(sorted(all, 'total', false).map((one) => one.name)).toEqual(['c', 'a', 'b'])
  })

  it('goes the other way against it, equals as before', () => {
    expect(sorted(all, 'total', true).map((one) => one.name)).toEqual(['a', 'b', 'c'])
  })

  it('knows each column', () => {
    expect(sorted(all, 'name', false).map((one) => one.name)).toEqual(['a', 'b', 'c'])
    expect(sorted(all, 'read', false)[0]?.name).toBe('c')
  })
})

describe('finding subscriptions', () => {
  const all = [made('bell', { subject: 'Roof repairs' }), made('horn', { addresses: ['shop@y.example'] })]

  it('looks for every word, wherever it stands', () => {
    expect(matching(all, 'ROOF bell').map((one) => one.name)).toEqual(['bell'])
    expect(matching(all, 'shop@').map((one) => one.name)).toEqual(['horn'])
    expect(matching(all, 'roof horn')).toEqual([])
    expect(matching(all, '  ')).toBe(all)
  })
})

describe('what is still to decide', () => {
  it('is what nobody decided on, and what came back', () => {
    expect(isOpen(made('a'))).toBe(true)
    expect(isOpen(made('a', { belongs: 'digest' }))).toBe(false)
    expect(isOpen(made('a', { unsubscribed: 9 }))).toBe(false)
    expect(isOpen(made('a', { unsubscribed: 9, came_back: 1 }))).toBe(true)
  })
})

describe('bars of weeks', () => {
  it('draws one for each week with mail, the most to the top', () => {
    expect(bars([0, 2, 4])).toBe('M3 14V7.5M5 14V1')
    expect(bars([])).toBe('')
    expect(bars([0, 0])).toBe('')
  })
})
