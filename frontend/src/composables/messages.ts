// Lists of mail, page by page: a place's, or what a search finds.
import { useInfiniteQuery, type InfiniteData, type QueryClient } from '@tanstack/vue-query'
import { computed, ref, type ComputedRef, type Ref } from 'vue'
import {
  client,
  unwrap,
  type Found,
  type InTrays,
  type Message,
  type Order,
  type Page,
  type Ranking,
} from '../api/client'
import { changed, withMessage, without } from '../lib/pages'
import { changedInTrays, withoutInTrays } from '../lib/trays'

const PAGE = 200
const KEPT_PAGES = 5
/** Under which the Desk in its trays is kept. */
export const DESK = ['desk']
type Data = InfiniteData<Page, string>

export interface Listed {
  order: Order
  unreadFirst: boolean
  unreadOnly: boolean
}

/** A place's mail, asked for while `on`. */
export function useMessages(place: Ref<string>, listed: Ref<Listed>, on: Ref<boolean> = ref(true)) {
  const query = useInfiniteQuery({
    queryKey: computed(() => ['messages', place.value, listed.value] as const),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET('/api/messages', {
          params: {
            query: {
              place: place.value,
              order: listed.value.order,
              unread_first: listed.value.unreadFirst,
              unread_only: listed.value.unreadOnly,
              cursor: pageParam,
              limit: PAGE,
            },
          },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    enabled: on,
  })
  return { messages: unique(computed(() => query.data.value?.pages)), ...paged(query) }
}

/** What a search line finds, with what was understood. */
export function useFound(line: Ref<string>, ranking: Ref<Ranking>) {
  const query = useInfiniteQuery({
    queryKey: computed(() => ['messages', '', line.value, ranking.value] as const),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET('/api/search', {
          params: { query: { line: line.value, order: ranking.value, cursor: pageParam, limit: PAGE } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    enabled: computed(() => line.value.trim() !== ''),
    retry: false,
  })
  const first = computed<Found | undefined>(() => query.data.value?.pages[0])
  return { messages: unique(computed(() => query.data.value?.pages)), ...paged(query), first }
}

export function unique(pages: ComputedRef<readonly { messages: Message[] }[] | undefined>) {
  return computed<Message[]>(() => {
    const seen = new Set<number>()
    return (pages.value ?? [])
      .flatMap((page) => page.messages)
      .filter((one) => !seen.has(one.id) && seen.add(one.id))
  })
}

interface Paged {
  hasNextPage: Ref<boolean>
  isFetchingNextPage: Ref<boolean>
  fetchNextPage: () => Promise<unknown>
  isPending: Ref<boolean>
  error: Ref<Error | null>
}

export function paged(query: Paged) {
  function more(): void {
    if (query.hasNextPage.value && !query.isFetchingNextPage.value) void query.fetchNextPage()
  }
  return {
    more,
    loading: query.isPending,
    loadingMore: query.isFetchingNextPage,
    failed: query.error,
    hasMore: computed(() => Boolean(query.hasNextPage.value)),
  }
}

/** Loads lists anew, keeping only the first pages of long ones. */
export function refreshLists(queries: QueryClient, also: readonly string[] = []): void {
  queries.setQueriesData<Data>(
    { queryKey: ['messages'] },
    (old) =>
      old && {
        ...old,
        pages: old.pages.slice(0, KEPT_PAGES),
        pageParams: old.pageParams.slice(0, KEPT_PAGES),
      },
  )
  for (const key of [['messages'], DESK, ['opened'], ['sources'], ...also.map((one) => [one])])
    void queries.invalidateQueries({ queryKey: key })
}

/** Asks anew for the open message and its thread: it may have been answered. */
export function refreshOpen(queries: QueryClient): void {
  for (const key of ['opened', 'thread']) void queries.invalidateQueries({ queryKey: [key] })
}

/** Takes messages out of every list of a place at once; gives what puts the lists back. Lists on their way are no
 * longer waited for: they were asked for before. */
export async function takeOut(queries: QueryClient, ids: ReadonlySet<number>): Promise<() => void> {
  const back = await kept(queries)
  for (const [key] of queries.getQueriesData<Data>({ queryKey: ['messages'] })) {
    if (key[1] !== '') queries.setQueryData<Data>(key, (old) => old && (without(old, ids) as Data))
  }
  queries.setQueriesData<InTrays>({ queryKey: DESK }, (old) => old && withoutInTrays(old, ids))
  return back
}

/** Changes fields of messages at once; gives what puts the lists back. */
export async function marked(
  queries: QueryClient,
  ids: Iterable<number>,
  fields: Partial<Message>,
): Promise<() => void> {
  const back = await kept(queries)
  changeIn(queries, ids, fields)
  return back
}

/** Ends what is on its way and keeps what the lists hold; gives what puts that back. */
async function kept(queries: QueryClient): Promise<() => void> {
  await Promise.all([['messages'], DESK].map((queryKey) => queries.cancelQueries({ queryKey })))
  const before = [['messages'], DESK].flatMap((queryKey) => queries.getQueriesData({ queryKey }))
  return () => before.forEach(([key, data]) => queries.setQueryData(key, data))
}

/** Changes fields of messages in every list at once. */
export function changeIn(queries: QueryClient, ids: Iterable<number>, fields: Partial<Message>): void {
  const wanted = new Set(ids)
  queries.setQueriesData<Data>(
    { queryKey: ['messages'] },
    (old) => old && (changed(old, wanted, fields) as Data),
  )
  queries.setQueriesData<InTrays>({ queryKey: DESK }, (old) => old && changedInTrays(old, wanted, fields))
}

/** Puts an arrived message into the lists of its place. */
export function putIn(queries: QueryClient, message: Message): void {
  for (const [key] of queries.getQueriesData<Data>({ queryKey: ['messages', message.place] })) {
    const listed = key[2] as Listed
    queries.setQueryData<Data>(key, (old) => old && (withMessage(old, message, listed) as Data))
  }
  void queries.invalidateQueries({ queryKey: ['sources'] })
  void queries.invalidateQueries({ queryKey: ['messages', `of ${message.place}`] })
  if (message.place === 'desk') void queries.invalidateQueries({ queryKey: DESK })
}
