// One stream of events keeps counts, lists and imports at what the server knows.
import { useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { onScopeDispose, readonly, ref } from 'vue'
import type { ImportJob, Message, Places } from '../api/client'
import { changeIn, putIn, refreshLists } from './messages'
import { setCounts } from './places'

const connected = ref(true)
const importing = ref<Partial<ImportJob> | null>(null)
interface Progress {
  done: number
  of: number
}

const rebuilding = ref<Progress | null>(null)
const trying = ref<(Progress & { state: string }) | null>(null)
const arrived = ref<Message | null>(null)

export function useStatus() {
  return {
    connected: readonly(connected),
    importing: readonly(importing),
    rebuilding: readonly(rebuilding),
    trying: readonly(trying),
    arrived: readonly(arrived),
  }
}

/** Listens as long as the calling scope lives. The browser comes back by itself and resumes. */
export function useEvents(): void {
  const queries = useQueryClient()
  const acts: [string, (event: Event) => void][] = []
  let source: EventSource | null = null
  let revision = 0

  function on<T>(kind: string, act: (data: T) => void): void {
    acts.push([kind, (event) => act(JSON.parse((event as MessageEvent<string>).data) as T)])
  }

  function open(): void {
    source = new EventSource('/api/events')
    source.addEventListener('open', () => (connected.value = true))
    source.addEventListener('error', () => (connected.value = false))
    for (const [kind, act] of acts) source.addEventListener(kind, act)
  }

  function close(): void {
    source?.close()
    source = null
  }

  // A page kept aside by the browser must not hold a connection: there are few of them per host.
  function reopen(event: PageTransitionEvent): void {
    if (!event.persisted) return
    open()
    void queries.invalidateQueries()
  }

  on('reset', () => void queries.invalidateQueries())
  // What happened between the first answers and this connection was told to nobody: look once more.
  on('hello', () => {
    void queries.invalidateQueries({ queryKey: ['places'] })
    refreshLists(queries)
  })
  on<{ message: Message }>('arrived', ({ message }) => {
    putIn(queries, message)
    arrived.value = message
  })
  on<{ counts: Record<string, [number, number]>; revision: number }>('counts', (data) => {
    const known = revision || (queries.getQueryData<Places>(['places'])?.revision ?? data.revision)
    setCounts(queries, data.counts)
    if (data.revision !== known) refreshLists(queries)
    revision = data.revision
  })
  on('moved', () => {
    refreshLists(queries)
    void queries.invalidateQueries({ queryKey: ['journal'] })
  })
  on<{ message: number; seen: boolean }>('seen', ({ message, seen }) => {
    changeIn(queries, [message], { seen })
  })
  on('rescored', () => refreshLists(queries))
  on('places', () => void queries.invalidateQueries({ queryKey: ['places'] }))
  on('searches', () => void queries.invalidateQueries({ queryKey: ['searches'] }))
  on<ImportJob>('import', (job) => {
    importing.value = job
    if (job.state === 'done') refreshLists(queries)
  })
  on<Progress>('rebuild', (now) => (rebuilding.value = now.done < now.of ? now : null))
  on<Progress & { state: string }>('trial', (now) => (trying.value = now))
  open()
  useEventListener(window, 'pagehide', close)
  useEventListener(window, 'pageshow', reopen)
  onScopeDispose(close)
}
