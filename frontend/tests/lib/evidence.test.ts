import { expect, it } from 'vitest'
import { isVague, strongest, tellingFirst } from '../../src/lib/evidence'
import { evidence } from '../made'

const level = evidence({ kind: 'lessons', text: '', value: -3 })
const bare = evidence({ kind: 'prior', group: 'Sender', text: 'Sender', value: 2 })
const said = evidence({ kind: 'prior', group: 'Sender', text: 'you answered Ilse', value: -1 })
const lesson = evidence({ kind: 'lesson', text: 'a lesson', value: 0.5 })

it('lines that only add up are vague', () => {
  expect([level, bare, said, lesson].map(isVague)).toEqual([true, true, false, false])
})

it('what tells something comes first, in its order', () => {
  expect(tellingFirst([level, said, bare, lesson])).toEqual([said, lesson, level, bare])
})

it('the strongest is the one that weighs most, for or against', () => {
  expect(strongest([level, lesson, said])).toBe(said)
  expect(strongest([level, bare])).toBeUndefined()
})
