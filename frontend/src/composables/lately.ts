// What happened since the owner was last here, asked once when the page is opened.
import { useQuery } from '@tanstack/vue-query'
import { useEventListener, useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import { client, unwrap } from '../api/client'
import { useStatus } from './events'

interface Visit {
  /** The newest message known then. */
  newest: number
  /** When the page was last in sight, in Unix seconds. */
  at: number
}

/** Seconds out of sight after which coming back is a new visit. */
const AWAY = 600
const MINUTE = 60_000
const NEVER = { after: Number.MAX_SAFE_INTEGER, since: 2 ** 40 }
const last = useLocalStorage<Visit>('hieranome-last-visit', { newest: 0, at: 0 })
/** How it was when the visit before this one ended; loading the page again begins no new visit. */
const before = useLocalStorage<Visit>('hieranome-visit-before', { newest: 0, at: 0 })
const seconds = () => Math.floor(Date.now() / 1000)

function arrive(): void {
  if (last.value.at && seconds() - last.value.at > AWAY) before.value = { ...last.value }
}

export function useLately() {
  const { data } = useQuery({
    queryKey: computed(() => ['lately', before.value.newest, before.value.at] as const),
    queryFn: () =>
      unwrap(
        client.GET('/api/lately', {
          // On a first visit nothing is counted: only the newest message is asked for.
          params: {
            query: before.value.at ? { after: before.value.newest, since: before.value.at } : NEVER,
          },
        }),
      ),
    staleTime: 0,
  })
  const known = computed(() => (before.value.at ? data.value : undefined))
  const newest = computed(() => data.value?.newest ?? 0)
  return { lately: known, since: computed(() => before.value.at), newest }
}

/** Keeps note of when the page was in sight and what had come by then, as long as the calling scope lives. */
export function useVisits(): void {
  const { newest } = useLately()
  const { arrived } = useStatus()
  const known = computed(() => Math.max(newest.value, arrived.value?.id ?? 0))

  function note(): void {
    if (document.visibilityState === 'visible')
      last.value = { newest: Math.max(known.value, last.value.newest), at: seconds() }
  }

  function back(): void {
    if (document.visibilityState !== 'visible') return
    arrive()
    note()
  }

  useEventListener(document, 'visibilitychange', back)
  useIntervalFn(note, MINUTE)
  watch(known, note)
  arrive()
  note()
}
