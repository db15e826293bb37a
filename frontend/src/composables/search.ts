// Searches kept by name, and what a line that is being written means.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import { client, unwrap, type SavedSearch } from '../api/client'
import { useAttempt } from './attempt'
import { useTeaching } from './teaching'

const KEY = ['searches']

export function useSavedSearches() {
  const queries = useQueryClient()
  const { show } = useTeaching()
  const { answer, attempt } = useAttempt(show)
  const { data } = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/searches')) })
  const saved = computed<SavedSearch[]>(() => data.value ?? [])

  async function save(name: string, line: string): Promise<void> {
    const one = await answer(() => unwrap(client.POST('/api/searches', { body: { name, line } })))
    if (one) show(`Saved as “${one.name}”.`)
    await queries.invalidateQueries({ queryKey: KEY })
  }

  async function remove(one: SavedSearch): Promise<void> {
    const params = { path: { number: one.id } }
    await attempt(() => unwrap(client.DELETE('/api/searches/{number}', { params })))
    await queries.invalidateQueries({ queryKey: KEY })
  }

  return { saved, save, remove }
}

/** What a line means while it is written, a little behind the writing. */
export function useUnderstood(line: Ref<string>) {
  const settled = refDebounced(line, 120)
  const { data } = useQuery({
    queryKey: computed(() => ['understood', settled.value] as const),
    queryFn: () =>
      unwrap(client.GET('/api/search/understood', { params: { query: { line: settled.value } } })),
    enabled: computed(() => settled.value.trim() !== ''),
    placeholderData: (before) => before,
  })
  return computed(() => (settled.value.trim() ? data.value : undefined))
}

/** Lines that find something where this one finds nothing. */
export function useInstead(line: Ref<string>) {
  const { data } = useQuery({
    queryKey: computed(() => ['search-instead', line.value] as const),
    queryFn: () => unwrap(client.GET('/api/search/instead', { params: { query: { line: line.value } } })),
  })
  return computed(() => data.value ?? [])
}

export function useOperators() {
  const { data } = useQuery({
    queryKey: ['operators'],
    queryFn: () => unwrap(client.GET('/api/search/operators')),
    staleTime: Infinity,
  })
  return computed(() => data.value ?? [])
}
