// What the page asked for and did not get: a sentence for each reason, and one way to try all of it again.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, shallowRef } from 'vue'
import { ServerError } from '../api/client'

/** What is wrong with the question itself is said where it is asked: asking again would not mend it. */
function mendable(error: unknown): boolean {
  return !(error instanceof ServerError) || error.status !== 422
}

export function useFailures() {
  const queries = useQueryClient()
  const cache = queries.getQueryCache()
  const errors = shallowRef<string[]>([])
  const trying = shallowRef(false)

  const failing = () =>
    cache
      .findAll({ type: 'active', predicate: (one) => one.state.status === 'error' })
      .filter((one) => mendable(one.state.error))

  function look(): void {
    const found = new Set(failing().map((one) => (one.state.error as Error).message))
    if (found.size !== errors.value.length || errors.value.some((one) => !found.has(one)))
      errors.value = [...found]
  }

  async function retry(): Promise<void> {
    trying.value = true
    await Promise.allSettled(failing().map((one) => one.fetch()))
    trying.value = false
    look()
  }

  let waiting = false
  onScopeDispose(
    cache.subscribe(() => {
      if (waiting) return
      waiting = true
      queueMicrotask(() => {
        waiting = false
        look()
      })
    }),
  )
  look()
  return { errors: computed(() => errors.value), trying: computed(() => trying.value), retry }
}
