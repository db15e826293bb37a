import { describe, expect, it } from 'vitest'
import { computed, effectScope, nextTick, ref } from 'vue'
import { useKeyed } from '../../src/composables/keyed'

function walked(...keys: string[]) {
  const shown = ref(keys)
  const scope = effectScope()
  const walk = scope.run(() => useKeyed(computed(() => shown.value.map((key) => ({ key })))))
  if (!walk) throw new Error('no scope')
  return { shown, walk }
}

describe('going through rows', () => {
  it('begins at the first and stays within', () => {
    const { walk } = walked('a', 'b', 'c')
    expect(walk.current.value?.key).toBe('a')
    walk.verbs.previous()
    expect(walk.at.value).toBe(0)
    walk.go(9)
    expect(walk.current.value?.key).toBe('c')
  })

  it('goes on to whoever stood behind a row that is gone, at the end to who stood before', async () => {
    const { shown, walk } = walked('a', 'b', 'c', 'd')
    walk.go(1)
    shown.value = ['d', 'a']
    await nextTick()
    expect(walk.current.value?.key).toBe('d')
    shown.value = ['x', 'a']
    await nextTick()
    expect(walk.current.value?.key).toBe('a')
    shown.value = []
    await nextTick()
    expect(walk.current.value).toBeUndefined()
    shown.value = ['q']
    await nextTick()
    expect(walk.current.value?.key).toBe('q')
  })

  it('stays on its row where that moves', async () => {
    const { shown, walk } = walked('a', 'b', 'c')
    walk.go(1)
    shown.value = ['c', 'a', 'b']
    await nextTick()
    expect([walk.current.value?.key, walk.at.value]).toEqual(['b', 2])
  })

  it('selects one, several, all, none, and only what is shown counts', async () => {
    const { shown, walk } = walked('a', 'b', 'c')
    walk.verbs.select()
    walk.verbs['extend-down']()
    expect(walk.chosen.value.map((row) => row.key)).toEqual(['a', 'b'])
    walk.toggle('a')
    expect(walk.chosen.value.map((row) => row.key)).toEqual(['b'])
    walk.verbs['select-all']()
    shown.value = ['c']
    await nextTick()
    expect(walk.chosen.value.map((row) => row.key)).toEqual(['c'])
    walk.verbs.close()
    expect(walk.chosen.value).toEqual([])
  })
})
