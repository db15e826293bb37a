// Editions and their plans.
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap, type Plan, type PlanGiven } from '../api/client'

const KEY = ['editions']

/** All editions, newest first, and how many wait to be read. */
export function useEditions() {
  const query = useInfiniteQuery({
    queryKey: [...KEY, 'all'],
    queryFn: ({ pageParam }) =>
      unwrap(client.GET('/api/editions', { params: { query: { before: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next || undefined,
  })
  return {
    editions: computed(() => query.data.value?.pages.flatMap((page) => page.editions) ?? []),
    unread: computed(() => query.data.value?.pages[0]?.unread ?? 0),
    loading: query.isPending,
    failed: query.error,
    hasMore: query.hasNextPage,
    more: () => void query.fetchNextPage(),
  }
}

/** One edition, with where each of its messages stands now. */
export function useEdition(number: Ref<number>) {
  const query = useQuery({
    queryKey: computed(() => [...KEY, 'one', number.value] as const),
    queryFn: () =>
      unwrap(client.GET('/api/editions/{number}', { params: { path: { number: number.value } } })),
    enabled: computed(() => number.value > 0),
  })
  return { edition: computed(() => (number.value ? query.data.value : undefined)), failed: query.error }
}

/** Notes that an edition was read; that it cannot be noted keeps nobody from reading. */
export async function noteRead(number: number): Promise<void> {
  await unwrap(client.POST('/api/editions/{number}/read', { params: { path: { number } } })).catch(
    () => undefined,
  )
}

export function usePlans() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: [...KEY, 'plans'], queryFn: () => unwrap(client.GET('/api/plans')) })
  const refresh = () => queries.invalidateQueries({ queryKey: KEY })

  /** Keeps a plan as described, a new one where it has no number. Throws when it is refused. */
  async function keep(number: number, plan: PlanGiven): Promise<void> {
    const made = number
      ? client.PUT('/api/plans/{number}', { params: { path: { number } }, body: plan })
      : client.POST('/api/plans', { body: plan })
    await unwrap(made as ReturnType<typeof client.POST<'/api/plans', { body: PlanGiven }>>)
    await refresh()
  }

  async function remove(number: number): Promise<void> {
    await unwrap(client.DELETE('/api/plans/{number}', { params: { path: { number } } }))
    await refresh()
  }

  /** Lets sources stand in the editions of one plan by name, and of no other; of none for 0. */
  async function assign(sources: readonly string[], to: number): Promise<void> {
    for (const one of query.data.value?.plans ?? []) {
      const others = one.sources.filter((source) => !sources.includes(source))
      const wanted = one.id === to ? [...others, ...sources] : others
      if (wanted.length !== one.sources.length || one.id === to)
        await keep(one.id, { ...one, sources: wanted })
    }
  }

  async function letIn(source: string): Promise<void> {
    await unwrap(client.DELETE('/api/left-out', { params: { query: { source } } }))
    await refresh()
  }

  return {
    plans: computed<readonly Plan[]>(() => query.data.value?.plans ?? []),
    leftOut: computed(() => query.data.value?.left_out ?? []),
    zone: computed(() => query.data.value?.zone ?? 'UTC'),
    failed: query.error,
    keep,
    remove,
    assign,
    letIn,
  }
}
