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

  /** What did not reach the server is told again while the list is looked at: nobody is bothered with it. */
  async function tell(from: string): Promise<void> {
    const told = waiting.splice(0, MOST)
    const of = looking
    since = 0
    if (!from || !told.length) return
    const body = { seen: told.map((message) => ({ message, place: from })) }
    const { response } = await client
      .POST('/api/looked-past', { body, keepalive: true })
      .catch(() => ({ response: undefined }))
    if (!response?.ok) of.again(told)
  }

  useIntervalFn(() => {
    if (!place.value) return
    if (document.visibilityState !== 'visible' || !document.hasFocus()) {
      void tell(place.value)
      return
    }
    const { list, first, last, open } = sight()
    const standing = new Set(list)
    waiting = waiting.filter((id) => standing.has(id))
    waiting.push(...looking.second(list, first, last, open))
    since = waiting.length ? since + 1 : 0
    if (since >= PATIENCE || waiting.length >= MOST) void tell(place.value)
  }, SECOND)

  watch(place, (_, before) => {
    void tell(before)
    waiting = []
    looking = new Looking()
  })
  onScopeDispose(() => void tell(place.value))
}
