import { describe, expect, it } from 'vitest'
import { ACTIONS, FIRST_KEYS, GROUPS } from '../../src/lib/actions'

describe('the keys by what one is doing', () => {
  it('names each action that has a key once', () => {
    const named = GROUPS.flatMap((group) => group.names)
    const keyed = ACTIONS.filter((one) => one.keys.length).map((one) => one.name)
    expect([...named].sort()).toEqual([...keyed].sort())
  })

  it('begins with ten', () => {
    expect(new Set(FIRST_KEYS).size).toBe(10)
  })
})
