import { describe, expect, it } from 'vitest'
import type { OpenedEdition } from '../../src/api/client'
import { daysWords, rowsOfEdition } from '../../src/lib/editions'

const entry = (message: number) => ({
  message, source: 'list:x', source_name: 'X', sender: 'X', subject: 's', time: 1, sentences: [], stood: 'digest',
  place: 'digest', seen: false,
}) // prettier-ignore
const edition = {
  groups: [
    { title: 'A', newest: entry(1), others: [entry(2), entry(3)] },
    { title: 'B', newest: entry(4), others: [] },
  ],
} as unknown as OpenedEdition

describe('the rows of an edition', () => {
  it('are all of it, each group, and the newest of each', () => {
    const rows = rowsOfEdition(edition, new Set())
    expect(rows.map((row) => row.key)).toEqual(['all', 'group-0', 'entry-1', 'group-1', 'entry-4'])
    expect(rows.map((row) => row.entries.map((one) => one.message))).toEqual([
      [1, 2, 3, 4],
      [1, 2, 3],
      [1],
      [4],
      [4],
    ])
  })

  it('hold all of a group that is opened', () => {
    const rows = rowsOfEdition(edition, new Set(['group-0']))
    expect(rows.map((row) => row.key)).toEqual([
      'all', 'group-0', 'entry-1', 'entry-2', 'entry-3', 'group-1', 'entry-4',
    ]) // prettier-ignore
  })

  it('are none while there is no edition', () => {
    expect(rowsOfEdition(undefined, new Set())).toEqual([])
  })
})

describe('days in words', () => {
  it('names what has a name', () => {
    expect([daysWords(31), daysWords(127), daysWords(1 + 16 + 64)]).toEqual([
      'weekdays',
      'every day',
      'Mon, Fri, Sun',
    ])
  })
})
