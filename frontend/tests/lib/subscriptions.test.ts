import { describe, expect, it } from 'vitest'
import type { Subscription } from '../../src/api/client'
import { bars, isOpen, matching, sorted } from '../../src/lib/subscriptions'

function made(name: string, changes: Partial<Subscription> = {}): Subscription {
  const plain = {
    key: `list:${name}`, keys: [`list:${name}`], sign: 'list', name, domain: `${name}.example`, total: 3, size: 10,
    read: 0.5, first_seen: 1, last_read: 0, subject: '', weeks: [], weekly: 1,
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

describe('finding subscriptions by what the columns tell', () => {
  const june = new Date(2026, 5, 1).getTime() / 1000
  const all = [
    made('bell', {
      size: 2_000_000,
      read: 0.05,
      weekly: 3,
      total: 90,
      first_seen: june - 1,
      last_read: june,
    }),
    made('horn', { size: 999_999, read: 0.5, weekly: 0.2, total: 10, first_seen: june }),
  ]
  const found = (line: string) => matching(all, line).map((one) => one.name)

  it('compares each, bounds themselves above', () => {
    expect(found('size>1MB')).toEqual(['bell'])
    expect(found('size>999999B')).toEqual(['bell', 'horn'])
    expect(found('read<10%')).toEqual(['bell'])
    expect(found('read>50')).toEqual(['horn'])
    expect(found('week>0.5 all>50')).toEqual(['bell'])
    expect(found('all<90')).toEqual(['horn'])
    expect(found('since<2026-06')).toEqual(['bell'])
    expect(found('since>2026-06-01')).toEqual(['horn'])
    expect(found('last<2026')).toEqual(['horn'])
    expect(found('bell size>1mb')).toEqual(['bell'])
  })

  it('takes what it cannot compare for a word', () => {
    for (const line of ['size>large', 'since>june', 'colour>3', 'size>', 'last<2026-6', 'constructor>1'])
      expect(found(line)).toEqual([])
    expect(matching([made('a>1')], 'a>1').map((one) => one.name)).toEqual(['a>1'])
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
