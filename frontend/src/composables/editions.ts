// Editions and their plans.
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap, type Plan, type PlanGiven } from '../api/client'

const KEY = ['editions']
const PLANS = [...KEY, 'plans']

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
  const query = useQuery({ queryKey: PLANS, queryFn: () => unwrap(client.GET('/api/plans')) })
  const refresh = () => queries.invalidateQueries({ queryKey: KEY })

  const put = (number: number, body: PlanGiven) =>
    unwrap(client.PUT('/api/plans/{number}', { params: { path: { number } }, body }))

  /** Keeps a plan as described, a new one where it has no number. Throws when it is refused. */
  async function keep(number: number, plan: PlanGiven): Promise<void> {
    await (number ? put(number, plan) : unwrap(client.POST('/api/plans', { body: plan })))
    await refresh()
  }

  async function remove(number: number): Promise<void> {
    await unwrap(client.DELETE('/api/plans/{number}', { params: { path: { number } } }))
    await refresh()
  }

  /** Lets sources stand in the editions of one plan by name, and of no other; of none for 0. Shown at once; thrown when
   * it is refused, and what holds then is asked for. */
  async function assign(sources: readonly string[], to: number): Promise<void> {
    const before = query.data.value
    if (!before) return
    const wanted = before.plans.map((one) => {
      const others = one.sources.filter((source) => !sources.includes(source))
      return { ...one, sources: one.id === to ? [...others, ...sources] : others }
    })
    const changed = wanted.filter((one, at) => one.sources.join() !== before.plans[at]?.sources.join())
    queries.setQueryData(PLANS, { ...before, plans: wanted })
    try {
      // The one that takes them first: whatever fails, they stand in some edition.
      for (const one of changed.sort((a, b) => Number(b.id === to) - Number(a.id === to)))
        await put(one.id, one)
    } catch (error) {
      queries.setQueryData(PLANS, before)
      throw error
    } finally {
      await refresh()
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
