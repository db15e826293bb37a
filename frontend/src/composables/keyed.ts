// Rows that are gone through by key: the one the owner is on, and those that are selected.
import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'

/** `picked` is given where the choice outlasts the page. */
export function useKeyed<Row extends { key: string }>(
  rows: ComputedRef<readonly Row[]>,
  picked: Ref<ReadonlySet<string>> = ref(new Set<string>()),
) {
  const currentKey = ref('')
  const at = computed(() => rows.value.findIndex((row) => row.key === currentKey.value))
  const current = computed<Row | undefined>(() => rows.value[at.value])
  const chosen = computed(() => rows.value.filter((row) => picked.value.has(row.key)))

  // Where the row the owner was on is gone, whoever stood behind it is next, or else before it.
  watch(
    rows,
    (now, before = []) => {
      if (now.some((row) => row.key === currentKey.value)) return
      const left = new Set(now.map((row) => row.key))
      const was = before.findIndex((row) => row.key === currentKey.value)
      const near = [...before.slice(was + 1), ...before.slice(0, Math.max(0, was)).reverse()]
      currentKey.value = (near.find((row) => left.has(row.key)) ?? now[0])?.key ?? ''
    },
    { immediate: true },
  )

  function go(to: number): void {
    const row = rows.value[Math.min(rows.value.length - 1, Math.max(0, to))]
    if (row) currentKey.value = row.key
  }

  function toggle(key: string): void {
    const next = new Set(picked.value)
    if (!next.delete(key)) next.add(key)
    picked.value = next
  }

  function extend(by: number): void {
    const from = currentKey.value
    go(at.value + by)
    picked.value = new Set([...picked.value, from, currentKey.value])
  }

  function clear(): void {
    picked.value = new Set()
  }

  /** What moves and selects, by the keys that lists have. */
  const verbs = {
    next: () => go(at.value + 1),
    previous: () => go(at.value - 1),
    select: () => {
      if (current.value) toggle(current.value.key)
    },
    'extend-down': () => extend(1),
    'extend-up': () => extend(-1),
    'select-all': () => {
      picked.value = new Set(rows.value.map((row) => row.key))
    },
    close: clear,
  }
  return { currentKey, picked, at, current, chosen, go, toggle, clear, verbs }
}
