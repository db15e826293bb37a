// What the owner arranges: how the page looks and its keys, kept by the server; and what was arranged last.
import { useQuery } from '@tanstack/vue-query'
import { useLocalStorage, watchDebounced } from '@vueuse/core'
import { computed, readonly, ref, watch, type Ref } from 'vue'
import { client, unwrap } from '../api/client'
import type { Chosen } from '../lib/actions'
import { useAttempt } from './attempt'
import {
  APPEARANCE,
  appearance,
  chosenKeys,
  singleKeys,
  theme,
  type Appearance,
  type Theme,
} from './settings'
import { hasStrip, useTeaching } from './teaching'

const SETTLED = 700

/** How one list or message is looked at just now stays in this browser, and is no step. */
type Passing = 'bySource' | 'inTrays' | 'evidence'
interface Look extends Omit<Appearance, Passing> {
  theme: Theme
}
interface Keys {
  single: boolean
  chosen: Chosen
}
const LOOK: Look = { ...lasting(APPEARANCE), theme: 'auto' }
const KEYS: Keys = { single: true, chosen: {} }

const look = computed<Look>({
  get: () => ({ ...LOOK, ...lasting(appearance.value), theme: theme.value }),
  set: ({ theme: colours, ...rest }) => {
    theme.value = colours
    appearance.value = { ...appearance.value, ...rest }
  },
})
const keys = computed<Keys>({
  get: () => ({ single: singleKeys.value, chosen: chosenKeys.value }),
  set: (wanted) => {
    singleKeys.value = wanted.single
    chosenKeys.value = wanted.chosen
  },
})

function lasting(one: Appearance): Omit<Appearance, Passing> {
  const passing: string[] = ['bySource', 'inTrays', 'evidence'] satisfies Passing[]
  return Object.fromEntries(Object.entries(one).filter(([name]) => !passing.includes(name))) as Omit<
    Appearance,
    Passing
  >
}

/** Whether the server knows what was chosen here: `never` heard from it, it is taken over; `no`, it is told. */
const synced = useLocalStorage<'never' | 'no' | 'yes'>('hieranome-synced', 'never')

/** What is told of the step that arranged something last, while this page is open. */
const latest = ref<{ step: number; title: string } | null>(null)

export function useLatest() {
  return { latest: readonly(latest), dismiss: () => (latest.value = null) }
}

/** Tells that something was arranged. */
export function tellArranged(step: { step: number; title: string }): void {
  latest.value = step
}

/** The same whatever order its fields are in. */
const written = (one: object) => JSON.stringify(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1)))

/** Keeps look and keys of this page and of the server the same, as long as somebody is signed in. */
export function useArranged(inside: Readonly<Ref<boolean>>): void {
  const { show, tell } = useTeaching()
  const { attempt } = useAttempt(show)
  const { data } = useQuery({
    queryKey: ['appearance'],
    queryFn: () => unwrap(client.GET('/api/appearance')),
    enabled: inside,
  })
  const known = { appearance: '', keys: '' }

  function heed(): void {
    if (!data.value) return
    const kept = { ...LOOK, ...(data.value.appearance as Partial<Look> | null) }
    const chosen = { ...KEYS, ...(data.value.keys as Partial<Keys> | null) }
    known.appearance = written(kept)
    known.keys = written(chosen)
    const ours = synced.value === 'no'
    const takes = (said: object | null) => !ours && (said !== null || synced.value === 'yes')
    if (takes(data.value.appearance) && known.appearance !== written(look.value)) look.value = kept
    if (takes(data.value.keys) && known.keys !== written(keys.value)) keys.value = chosen
    keep()
  }

  /** Tells the server what it does not know yet. */
  function keep(): void {
    if (!inside.value || !data.value) return
    const body: { appearance?: object; keys?: object } = {}
    if (written(look.value) !== known.appearance) body.appearance = { ...look.value }
    if (written(keys.value) !== known.keys) body.keys = { ...keys.value }
    if (body.appearance || body.keys) void put(body)
    else synced.value = 'yes'
  }

  async function put(body: { appearance?: object; keys?: object }): Promise<void> {
    known.appearance = written(look.value)
    known.keys = written(keys.value)
    const sent = known.appearance + known.keys
    const done = await attempt(() => unwrap(client.PUT('/api/appearance', { body: body as never })))
    if (done && written(look.value) + written(keys.value) === sent) synced.value = 'yes'
  }

  // Where a strip on the page tells what was done, it tells this too; what is undone it tells by itself.
  watch(latest, (one) => {
    if (!one || !hasStrip.value) return
    if (one.step) tell(`${one.title}.`)
    latest.value = null
  })
  watch(data, heed, { immediate: true })
  // A page that is left before the server was told tells it when it is opened again.
  watch([look, keys], () => (synced.value = 'no'), { deep: true, flush: 'sync' })
  watchDebounced([look, keys], keep, { debounce: SETTLED, deep: true })
}
