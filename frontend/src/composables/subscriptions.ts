// Subscriptions, and decisions on them: shown at once, put back when the server refuses.
import { useQuery, useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { client, unwrap, type Subscription, type Subscriptions } from '../api/client'
import { isOpen } from '../lib/subscriptions'

const KEY = ['subscriptions']
const QUIET = 500
const under = ref(0)
let timer: ReturnType<typeof setTimeout> | undefined

/** Asks for the subscriptions anew once nothing has happened for a while, and no decision is under way. */
export function refreshSubscriptions(queries: QueryClient): void {
  clearTimeout(timer)
  timer = setTimeout(() => {
    if (under.value) refreshSubscriptions(queries)
    else void queries.invalidateQueries({ queryKey: KEY })
  }, QUIET)
}

export function useSubscriptions() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/subscriptions')) })
  const all = computed<readonly Subscription[]>(() => query.data.value?.subscriptions ?? [])
  const toDecide = computed(() => all.value.filter(isOpen).length)

  /** Decides where all mail of subscriptions belongs from now on. Throws when it is refused. */
  async function decide(chosen: readonly Subscription[], belongs: string, confirmed: boolean) {
    await queries.cancelQueries({ queryKey: KEY })
    const keys = new Set(chosen.map((one) => one.key))
    const put = (how: (one: Subscription) => string) =>
      queries.setQueryData<Subscriptions>(
        KEY,
        (old) =>
          old && {
            ...old,
            subscriptions: old.subscriptions.map((one) =>
              keys.has(one.key) ? { ...one, belongs: how(one) } : one,
            ),
          },
      )
    put(() => belongs)
    under.value++
    try {
      const body = { sources: chosen.flatMap((one) => one.keys), belongs, confirmed, chosen: true }
      return await unwrap(client.POST('/api/subscriptions/decide', { body }))
    } catch (error) {
      const before = new Map(chosen.map((one) => [one.key, one.belongs]))
      put((one) => before.get(one.key) ?? '')
      throw error
    } finally {
      under.value--
      refreshSubscriptions(queries)
    }
  }

  /** Ends a subscription by the way that is offered; what came of it. Throws when it is refused. */
  async function unsubscribe(one: Subscription) {
    const body = { source: one.key }
    const asked = await unwrap(client.POST('/api/subscriptions/unsubscribe', { body }))
    await queries.invalidateQueries({ queryKey: KEY })
    await queries.invalidateQueries({ queryKey: ['subscription', one.key] })
    return asked
  }

  /** The way by which a subscription can be ended, if there is one. */
  async function offerOf(source: string) {
    const about = await queries.fetchQuery({
      queryKey: ['subscription', source],
      queryFn: () => askAbout(source),
    })
    return about.offer ?? undefined
  }

  return {
    all,
    toDecide,
    toLookAt: computed(() => query.data.value?.to_look_at ?? 0),
    loading: query.isPending,
    failed: query.error,
    decide,
    offerOf,
    unsubscribe,
  }
}

export type Offered = NonNullable<Awaited<ReturnType<typeof askAbout>>['offer']>

const askAbout = (source: string) =>
  unwrap(client.GET('/api/subscriptions/about', { params: { query: { source } } }))

/** What a subscription says it is; nothing while none is chosen. */
export function useAbout(key: Ref<string>) {
  const query = useQuery({
    queryKey: computed(() => ['subscription', key.value] as const),
    queryFn: () => askAbout(key.value),
    enabled: computed(() => key.value !== ''),
  })
  return { about: computed(() => (key.value ? query.data.value : undefined)), failed: query.error }
}
