import { expect, it } from 'vitest'
import { useAttempt } from '../../src/composables/attempt'

it('gives the answer, and is busy meanwhile', async () => {
  const { busy, answer, problem } = useAttempt()
  const given = answer(() => Promise.resolve(7))
  expect(busy.value).toBe(true)
  expect(await given).toBe(7)
  expect([busy.value, problem.value]).toEqual([false, ''])
})

it('tells why it was refused, and forgets it with the next try', async () => {
  const told: string[] = []
  const { attempt, problem } = useAttempt((why) => told.push(why))
  expect(await attempt(() => Promise.reject(new Error('The disk is full.')))).toBe(false)
  expect([problem.value, told]).toEqual(['The disk is full.', ['The disk is full.']])
  expect(await attempt(() => Promise.resolve(undefined))).toBe(true)
  expect(problem.value).toBe('')
})
