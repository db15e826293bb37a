// Queues: kept, shown by state, worked through.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, unwrap, type Queue, type QueueGiven, type QueueShown } from '../api/client'
import { useAttempt } from './attempt'
import { refreshLists } from './messages'
import { titleOf, useTeaching, type Chosen } from './teaching'

const KEY = ['queues']

export function useQueues() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: [...KEY, 'all'], queryFn: () => unwrap(client.GET('/api/queues')) })
  const all = computed<readonly Queue[]>(() => query.data.value ?? [])

  async function loaded<T>(work: Promise<T>): Promise<T> {
    const done = await work
    await queries.invalidateQueries({ queryKey: KEY })
    void queries.invalidateQueries({ queryKey: ['tags'] })
    return done
  }

  /** Keeps a queue, a new one where `number` is 0. Throws when it is refused. */
  function keep(number: number, body: QueueGiven): Promise<QueueShown> {
    const params = { path: { number } }
    return loaded(
      unwrap(
        number ? client.PUT('/api/queues/{number}', { params, body }) : client.POST('/api/queues', { body }),
      ),
    )
  }
  const remove = (number: number) =>
    loaded(unwrap(client.DELETE('/api/queues/{number}', { params: { path: { number } } })))

  return { all, known: query.isSuccess, failed: query.error, keep, remove }
}

/** What stands in each state of a queue (0: of none). */
export function useQueue(number: Readonly<Ref<number>>) {
  return useQuery({
    queryKey: computed(() => [...KEY, number.value] as const),
    queryFn: (): Promise<QueueShown> =>
      unwrap(client.GET('/api/queues/{number}', { params: { path: { number: number.value } } })),
    enabled: computed(() => number.value > 0),
  })
}

export function useQueueWork() {
  const queries = useQueryClient()
  const teaching = useTeaching()
  const { answer } = useAttempt(teaching.show)

  function told(what: Chosen, step: number, state: string): void {
    if (step) teaching.tell(`${titleOf(what)} is in “${state}”.`)
    else teaching.show(`It stands in “${state}” already.`)
    refreshLists(queries, ['queues', 'tags'])
  }

  /** Brings messages to the next state of their queue, or back. */
  async function stepOn(what: Chosen, back: boolean): Promise<void> {
    if (!what.ids.length) return
    const body = { messages: [...what.ids], back }
    const done = await answer(() => unwrap(client.POST('/api/queued/step', { body })))
    if (done) told(what, done.step, done.state)
  }

  /** Brings messages to a state of a queue. */
  async function bring(queue: QueueShown, what: Chosen, state: number): Promise<void> {
    const params = { path: { number: queue.id } }
    const body = { messages: [...what.ids], state }
    const done = await answer(() => unwrap(client.POST('/api/queues/{number}/bring', { params, body })))
    if (done) told(what, done.step, queue.columns[state]?.name ?? '')
  }

  return { stepOn, bring }
}
