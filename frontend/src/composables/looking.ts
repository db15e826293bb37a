// Tells the server which mail was looked past in a bucket, so that leaving it there teaches a little.
import { useIntervalFn } from '@vueuse/core'
import { onScopeDispose, watch, type Ref } from 'vue'
import { client } from '../api/client'
import { Looking } from '../lib/looking'

/** What stands in sight: the list in its order, from which position to which, what is open. */
export interface Sight {
  list: readonly number[]
  first: number
  last: number
  open: number
}

const SECOND = 1000
/** Seconds after which what was looked past is told, so that a verdict that follows at once comes first. */
const PATIENCE = 20
const MOST = 500

/** Watches a list of one bucket; of a list without one (`place` is empty) nothing is told. */
export function useLooking(place: Ref<string>, sight: () => Sight): void {
  let looking = new Looking()
  let waiting: number[] = []
  let since = 0

  /** What did not reach the server is told the next time it is looked past: nobody is bothered with it. */
  function tell(from: string): void {
    const seen = waiting.slice(0, MOST).map((message) => ({ message, place: from }))
    waiting = []
    since = 0
    if (from && seen.length)
      void client.POST('/api/looked-past', { body: { seen }, keepalive: true }).catch(() => undefined)
  }

  useIntervalFn(() => {
    if (!place.value) return
    if (document.visibilityState !== 'visible' || !document.hasFocus()) {
      tell(place.value)
      return
    }
    const { list, first, last, open } = sight()
    const standing = new Set(list)
    waiting = waiting.filter((id) => standing.has(id))
    waiting.push(...looking.second(list, first, last, open))
    since = waiting.length ? since + 1 : 0
    if (since >= PATIENCE || waiting.length >= MOST) tell(place.value)
  }, SECOND)

  watch(place, (_, before) => {
    tell(before)
    looking = new Looking()
  })
  onScopeDispose(() => tell(place.value))
}
