import { describe, expect, it } from 'vitest'
import type { RanRoutine, Routine } from '../../src/api/client'
import { keyProblem, placesMail, ranWords, routineOf, takenBy } from '../../src/lib/routines'

const routine = (id: number, key: string, verb: 'archive' | 'read' = 'read'): Routine => ({
  id,
  name: `R${id}`,
  key,
  actions: [{ verb, target: '' }],
  broken: '',
})
const ran = (drafts: number, refused: number): RanRoutine => ({
  step: 1,
  messages: [1],
  drafts: Array.from({ length: drafts }, (_, at) => at + 1),
  refused: Array.from({ length: refused }, () => ({ message: 9, subject: '', why: 'it is a draft' })),
})

describe('the key of a routine', () => {
  it('does the routine, unless an action has it', () => {
    const all = [routine(1, '1'), routine(2, 'a')]
    expect(routineOf('1', all, {})?.id).toBe(1)
    expect(routineOf('a', all, {})).toBeUndefined()
    expect(routineOf('a', all, { 'put-0': ['2'] })?.id).toBe(2)
    expect(routineOf('', all, {})).toBeUndefined()
  })
  it('is refused where an action has it, saying which', () => {
    expect(takenBy('1', {})).toBe('')
    expect(keyProblem('a', {})).toContain('Desk')
    expect(keyProblem('1', {})).toBe('')
  })
})

describe('what a routine did', () => {
  it('says how many drafts wait and what was left as it was', () => {
    expect(ranWords('Rider', '3 messages', ran(0, 0))).toBe('“Rider” is done to 3 messages.')
    expect(ranWords('Rider', '3 messages', ran(3, 1))).toBe(
      '“Rider” is done to 3 messages. 3 drafts wait in Outgoing. 1 is left as it was.',
    )
    expect(ranWords('Rider', '3 messages', ran(1, 2))).toContain('2 are left as they were.')
  })
  it('moves its mail where it has a place for it', () => {
    expect(placesMail(routine(1, '', 'archive'), ['archive', 'bucket'])).toBe(true)
    expect(placesMail(routine(1, '', 'read'), ['archive', 'bucket'])).toBe(false)
  })
})
