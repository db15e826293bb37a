// The mail of a bucket by source: lists and senders, the mail of one, and verbs on all of it.
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap, type Source } from '../api/client'
import { paged, unique } from './messages'

export type Ranked = 'total' | 'newest'
const PAGE = 60
const MAIL = 100
/** As many messages as one step covers. */
const MOST = 10_000

/** The sources of a bucket, page by page; none while there is no order. */
export function useSources(place: Ref<string>, ranked: Ref<Ranked | undefined>) {
  const query = useInfiniteQuery({
    queryKey: computed(() => ['sources', place.value, ranked.value] as const),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET('/api/places/{name}/sources', {
          params: {
            path: { name: place.value },
            query: { order: ranked.value ?? 'total', cursor: pageParam, limit: PAGE },
          },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    enabled: computed(() => ranked.value !== undefined),
  })
  const sources = computed<Source[]>(() => {
    const seen = new Set<string>()
    return (query.data.value?.pages ?? [])
      .flatMap((page) => page.sources)
      .filter((one) => !seen.has(one.key) && seen.add(one.key))
  })
  const count = computed(() => query.data.value?.pages[0]?.count ?? 0)
  return { sources, count, ...paged(query) }
}

/** The mail of one source in a bucket, newest first; none while no source is open. */
export function useMailOf(place: Ref<string>, source: Ref<string>) {
  const query = useInfiniteQuery({
    // A list like any other: what is done to a message shows in it at once.
    queryKey: computed(() => ['messages', `of ${place.value}`, source.value] as const),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET('/api/places/{name}/sources/mail', {
          params: {
            path: { name: place.value },
            query: { source: source.value, cursor: pageParam, limit: MAIL },
          },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    enabled: computed(() => source.value !== ''),
  })
  const messages = unique(computed(() => (source.value ? query.data.value?.pages : undefined)))
  return { messages, ...paged(query) }
}

/** The ids of all mail of a source in a bucket. */
export async function idsOf(place: string, source: string): Promise<number[]> {
  const params = { path: { name: place }, query: { source, limit: MOST } }
  return (await unwrap(client.GET('/api/places/{name}/messages', { params }))).messages
}
