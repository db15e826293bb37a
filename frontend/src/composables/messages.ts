// The list of a place, page by page.
import { useInfiniteQuery, type InfiniteData, type QueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap, type Message, type Order, type Page } from '../api/client'
import { withMessage, without } from '../lib/pages'

const PAGE = 200
const KEPT_PAGES = 5
type Data = InfiniteData<Page, string>

export function listKey(place: string, order: Order) {
  return ['messages', place, order] as const
}

export function useMessages(place: Ref<string>, order: Ref<Order>) {
  const query = useInfiniteQuery({
    queryKey: computed(() => listKey(place.value, order.value)),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET('/api/messages', {
          params: { query: { place: place.value, order: order.value, cursor: pageParam, limit: PAGE } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
  })
  const messages = computed<Message[]>(() => {
    const seen = new Set<number>()
    return (query.data.value?.pages ?? [])
      .flatMap((page) => page.messages)
      .filter((one) => !seen.has(one.id) && seen.add(one.id))
  })
  function more(): void {
    if (query.hasNextPage.value && !query.isFetchingNextPage.value) void query.fetchNextPage()
  }
  return {
    messages,
    more,
    loading: query.isPending,
    loadingMore: query.isFetchingNextPage,
    failed: query.error,
    hasMore: computed(() => Boolean(query.hasNextPage.value)),
  }
}

/** Loads lists anew, keeping only the first pages of long ones. */
export function refreshLists(queries: QueryClient): void {
  for (const [key] of queries.getQueriesData<Data>({ queryKey: ['messages'] })) {
    queries.setQueryData<Data>(
      key,
      (old) =>
        old && { pages: old.pages.slice(0, KEPT_PAGES), pageParams: old.pageParams.slice(0, KEPT_PAGES) },
    )
  }
  void queries.invalidateQueries({ queryKey: ['messages'] })
  void queries.invalidateQueries({ queryKey: ['opened'] })
}

/** Takes messages out of every list at once; returns what puts the lists back. */
export function takeOut(queries: QueryClient, ids: ReadonlySet<number>): () => void {
  const before = queries.getQueriesData<Data>({ queryKey: ['messages'] })
  for (const [key] of before) {
    queries.setQueryData<Data>(key, (old) => old && (without(old, ids) as Data))
  }
  return () => before.forEach(([key, data]) => queries.setQueryData(key, data))
}

/** Puts an arrived message into the list it belongs in. */
export function putIn(queries: QueryClient, message: Message): void {
  for (const [key] of queries.getQueriesData<Data>({ queryKey: ['messages', message.place] })) {
    const order = key[2] as Order
    queries.setQueryData<Data>(key, (old) => old && (withMessage(old, message, order) as Data))
  }
}
