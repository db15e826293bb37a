import { describe, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'
import { useCombobox } from '../../src/composables/combobox'
import { within } from '../made'

function box(first?: number) {
  const choices = ref<string[]>(['a', 'b'])
  const taken: string[] = []
  const { made } = within(() =>
    useCombobox(choices, { take: (one) => taken.push(one), close: () => (choices.value = []), first }),
  )
  const key = (name: string) => made.key(new KeyboardEvent('keydown', { key: name, cancelable: true }))
  return { choices, taken, key, ...{ box: made } }
}

describe('a field with choices', () => {
  it('moves within them and takes the chosen one', () => {
    const { box: made, key, taken } = box()
    expect(key('Enter')).toBe(false)
    key('ArrowDown')
    key('ArrowDown')
    key('ArrowDown')
    expect(made.chosen.value).toBe('b')
    key('ArrowUp')
    expect(key('Enter')).toBe(true)
    expect(taken).toEqual(['a'])
  })

  it('tells assistive programs which one is chosen', () => {
    const { box: made, key } = box()
    expect(made.field.value['aria-activedescendant']).toBeUndefined()
    key('ArrowDown')
    expect(made.field.value['aria-activedescendant']).toBe(made.option(0).id)
    expect([made.option(0)['aria-selected'], made.option(1)['aria-selected']]).toEqual([true, false])
    expect(made.field.value['aria-controls']).toBe(made.list.id)
  })

  it('closes on Escape, and leaves keys alone where nothing is offered', () => {
    const { box: made, key } = box()
    expect(key('Escape')).toBe(true)
    expect(made.field.value['aria-expanded']).toBe(false)
    expect([key('Escape'), key('ArrowDown'), key('x')]).toEqual([false, false, false])
  })

  it('lets go of what was chosen once it is taken, or something is typed', () => {
    const { box: made, key, taken } = box()
    key('ArrowDown')
    key('Enter')
    expect(key('Enter')).toBe(false)
    key('ArrowDown')
    key('x')
    expect(made.chosen.value).toBeUndefined()
    expect(taken).toEqual(['a'])
  })

  it('begins anew with other choices', async () => {
    const { box: made, choices, key } = box(0)
    expect(made.chosen.value).toBe('a')
    key('ArrowDown')
    choices.value = ['c', 'd']
    await nextTick()
    expect(made.chosen.value).toBe('c')
  })
})
