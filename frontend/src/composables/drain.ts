// The Drain: how long it keeps mail, what leaves it, how readily mail comes into it.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap } from '../api/client'

const KEY = ['drain']

export function useDrain() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/drain')) })

  /** Says for how long it keeps mail, or what good mail in it costs: shown at once, put back and thrown when refused. */
  async function change(wanted: { days?: number; cost?: number }): Promise<void> {
    const before = query.data.value
    queries.setQueryData(KEY, before && { ...before, ...wanted })
    try {
      queries.setQueryData(KEY, await unwrap(client.PUT('/api/drain', { body: wanted })))
    } catch (error) {
      queries.setQueryData(KEY, before)
      throw error
    }
    await queries.invalidateQueries({ queryKey: ['messages'] })
  }

  /** Empties it of what it held when it was looked at. Throws when it is refused. */
  async function empty(newest: number) {
    const step = await unwrap(client.POST('/api/drain/empty', { body: { newest } }))
    await queries.invalidateQueries()
    return step
  }

  return { drain: computed(() => query.data.value), failed: query.error, change, empty }
}

/** The mail in it that may not belong there, by sender; asked for while somebody looks. */
export function useDoubted(looking: Ref<boolean>) {
  const query = useQuery({
    queryKey: ['messages', 'doubted in the drain'],
    queryFn: async () => ({
      pages: [{ messages: await unwrap(client.GET('/api/drain/doubted')), next: '' }],
      pageParams: [''],
    }),
    enabled: looking,
  })
  return computed(() => query.data.value?.pages[0]?.messages ?? [])
}

/** What each cost would have done last month; asked for while somebody looks. */
export function usePreview(looking: Ref<boolean>) {
  const query = useQuery({
    queryKey: [...KEY, 'preview'],
    queryFn: () => unwrap(client.GET('/api/drain/preview')),
    enabled: looking,
  })
  return computed(() => query.data.value ?? [])
}
