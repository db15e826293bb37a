// Topics: which tags find their mail, what one asks, and how far a search of all that is here is.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, readonly, ref, type Ref } from 'vue'
import { client, unwrap, type Topic, type TopicTold } from '../api/client'
import { refreshLists } from './messages'

const KEY = ['topics']
const finding = ref<{ topic: number; done: number; of: number } | null>(null)
/** The last search that ended: of which topic, and its step, 0 where nothing had to change. */
const found = ref<{ topic: number; step: number } | null>(null)

/** Notes what the server tells of a search. */
export function noteFinding(told: { topic: number; done: number; of: number; step: number }): void {
  finding.value = told.done < told.of ? told : null
  if (told.done >= told.of) found.value = told
}

export function useTopics() {
  const queries = useQueryClient()
  const query = useQuery({
    queryKey: KEY,
    queryFn: (): Promise<Topic[]> => unwrap(client.GET('/api/topics')),
  })
  const all = computed<readonly Topic[]>(() => query.data.value ?? [])

  async function loaded<T>(work: Promise<T>): Promise<T> {
    const done = await work
    await queries.invalidateQueries({ queryKey: KEY })
    void queries.invalidateQueries({ queryKey: ['tags'] })
    refreshLists(queries)
    return done
  }

  const path = (number: number) => ({ path: { number } })
  const describe = (said: string, name: string, tag = 0) =>
    loaded(unwrap(client.POST('/api/topics', { body: { said, name, tag } })))
  const say = (topic: number, messages: readonly number[], belongs: boolean, drawn = false) => {
    const body = { messages: [...messages], belongs, drawn }
    return loaded(unwrap(client.POST('/api/topics/{number}/answers', { params: path(topic), body })))
  }
  const turn = (topic: Topic, enabled: boolean, bucket: string) =>
    loaded(
      unwrap(
        client.PUT('/api/topics/{number}/running', { params: path(topic.id), body: { enabled, bucket } }),
      ),
    )
  const rest = (topic: Topic) =>
    loaded(unwrap(client.DELETE('/api/topics/{number}', { params: path(topic.id) })))

  async function find(topic: Topic): Promise<void> {
    await unwrap(client.POST('/api/topics/{number}/find', { params: path(topic.id) }))
    finding.value = { topic: topic.id, done: 0, of: 1 }
  }

  return {
    all,
    loading: query.isPending,
    failed: query.error,
    finding: readonly(finding),
    found: readonly(found),
    describe,
    say,
    turn,
    rest,
    find,
  }
}

/** What a topic asks and how it does; of none, nothing. */
export function useTopic(number: Readonly<Ref<number>>) {
  return useQuery({
    queryKey: computed(() => [...KEY, number.value] as const),
    queryFn: (): Promise<TopicTold> =>
      unwrap(client.GET('/api/topics/{number}', { params: { path: { number: number.value } } })),
    enabled: computed(() => number.value > 0),
    placeholderData: (before) => (before?.topic.id === number.value ? before : undefined),
  })
}
