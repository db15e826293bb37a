import { describe, expect, it } from 'vitest'
import type { Doing, RulePreview } from '../../src/api/client'
import {
  conflictWords,
  doingWords,
  emptyRule,
  givenOf,
  previewWords,
  sent,
  unchanged,
  whenWords,
} from '../../src/lib/rules'

const DOINGS: Doing[] = [
  { verb: 'folder', title: 'File in the folder', takes: 'folder', places: true },
  { verb: 'tag', title: 'Tag', takes: 'tag', places: false },
  { verb: 'flag', title: 'Flag', takes: '', places: false },
]
const told: RulePreview = {
  sentence: 'Mail from “ilse”.',
  total: 41,
  exact: true,
  newest: [],
  standing: 39,
  by_model: 38,
  against: 2,
  answered: 0,
  answers: [],
  marginal: [],
  following: [],
}

describe('what rules do, in words', () => {
  it('names places and tags, in one sentence', () => {
    const actions = [
      { verb: 'folder' as const, target: 'folder-1' },
      { verb: 'tag' as const, target: '3' },
      { verb: 'flag' as const, target: '' },
    ]
    const names = { 'folder:folder-1': 'Freight', 'tag:3': 'Carnets' }
    expect(doingWords(actions, DOINGS, names)).toBe('File in the folder Freight, tag Carnets, flag')
    expect(doingWords([{ verb: 'tag', target: '9' }], DOINGS, {})).toBe('Tag 9')
  })

  it('says when', () => {
    const rule = { when: 'ages' as const, days: 1, counted: 'came' as const, last_of_day: false }
    expect(whenWords({ ...rule, when: 'arrives' })).toBe('as it arrives')
    expect(whenWords(rule)).toBe('a day after it came')
    expect(whenWords({ ...rule, days: 21, counted: 'thread', last_of_day: true })).toBe(
      '21 days after the newest of its thread, but the last of each day',
    )
  })

  it('tells what a preview found, and no more than is known', () => {
    expect(previewWords(told, 'shelf')).toEqual([
      '41 messages in the last ninety days.',
      '39 of 41 stand there already, 38 by the model: the model has learned this.',
      '2 you put elsewhere yourself: they stay.',
    ])
    expect(previewWords({ ...told, by_model: 5, against: 1 }, 'shelf')[1]).toBe(
      '39 of 41 stand there already, 5 by the model.',
    )
    expect(previewWords({ ...told, exact: false }, 'shelf')).toEqual([
      'At least 41 messages in the last ninety days.',
    ])
    expect(previewWords({ ...told, total: 1, against: 1 }, '')).toEqual([
      '1 message in the last ninety days.',
      '1 you put elsewhere yourself: it stays.',
    ])
  })

  it('names what a rule came up against', () => {
    const one = { rule: 1, other: 0, against: 'verdict', count: 1, message: 7 }
    const named = () => 'Visas'
    expect(conflictWords(one, named)).toBe('Once you put elsewhere what it had put somewhere.')
    expect(conflictWords({ ...one, other: 2, against: 'rule', count: 3 }, named)).toBe(
      '3 times “Visas” came first and put the mail elsewhere.',
    )
    expect(conflictWords({ ...one, against: 'vouched' }, named)).toContain('you vouch for the sender')
  })
})

describe('a rule as it is written', () => {
  it('is sent without days where they say nothing, and named by its line where it has no name', () => {
    const rule = emptyRule('', 'from:ilse')
    expect(sent(rule)).toMatchObject({ name: 'from:ilse', days: 0 })
    expect(sent({ ...rule, when: 'ages' }).days).toBe(21)
  })

  it('is changed only where it says something else', () => {
    const kept = {
      ...sent(emptyRule('Ilse', 'from:ilse')),
      id: 4,
      sentence: '',
      broken: '',
      hits: 0,
      last: 0,
      put: 0,
      served: false,
    }
    const given = givenOf(kept)
    expect(unchanged(given, { ...given, days: 9 })).toBe(true)
    expect(unchanged(given, { ...given, excepted: 'subject:no' })).toBe(false)
    expect(given.actions[0]).not.toBe(kept.actions[0])
  })
})
