// One stream of events keeps counts, lists and imports at what the server knows.
import { useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { onScopeDispose, readonly, ref, watch, type Ref } from 'vue'
import type { ImportJob, Message, Places } from '../api/client'
import type { Acts, Kind, Progress, Told } from '../lib/told'
import { tellArranged } from './arranged'
import { changeIn, DESK, putIn, refreshLists, refreshOpen } from './messages'
import { openStream, type Stream } from '../lib/stream'
import { setCounts } from './places'
import { noteRoutine } from './routines'
import { noteRun } from './rules'
import { refreshSubscriptions } from './subscriptions'
import { noteFinding } from './topics'

const connected = ref(true)
const importing = ref<Partial<ImportJob> | null>(null)
const rebuilding = ref<Progress | null>(null)
const rescoring = ref<Progress | null>(null)
const renewing = ref<Progress | null>(null)
const trying = ref<(Progress & { state: string }) | null>(null)
const arrived = ref<Message | null>(null)

export function useStatus() {
  return {
    connected: readonly(connected),
    importing: readonly(importing),
    rebuilding: readonly(rebuilding),
    rescoring: readonly(rescoring),
    renewing: readonly(renewing),
    trying: readonly(trying),
    arrived: readonly(arrived),
  }
}

/** Listens as long as the calling scope lives and somebody is signed in. */
export function useEvents(inside: Readonly<Ref<boolean>>): void {
  const queries = useQueryClient()
  const acts: Acts = {}
  let stream: Stream | null = null
  let revision = 0

  function on<K extends Kind>(kind: K, act: (data: Told[K]) => void): void {
    Object.assign(acts, { [kind]: act })
  }

  function open(): void {
    if (inside.value && !stream) stream = openStream('/api/events', acts, connected)
  }

  function close(): void {
    stream?.close()
    stream = null
  }

  // A page kept aside by the browser must not hold the stream: another page shall have it.
  function reopen(event: PageTransitionEvent): void {
    if (!event.persisted) return
    open()
    void queries.invalidateQueries()
  }

  on('reset', () => void queries.invalidateQueries())
  // What happened between the first answers and this connection was told to nobody: look once more.
  on('hello', () => {
    for (const key of ['places', 'second-look', 'tags', 'topics', 'trays', 'rules'])
      void queries.invalidateQueries({ queryKey: [key] })
    refreshLists(queries)
  })
  on('arrived', ({ message }) => {
    putIn(queries, message)
    arrived.value = message
    if (message.decided_by === 'rule' || message.seen)
      void queries.invalidateQueries({ queryKey: ['rules', 'hidden'] })
    // What came may be an answer to what is open, or the owner's own from another program.
    refreshOpen(queries)
  })
  on('counts', (data) => {
    const known = revision || (queries.getQueryData<Places>(['places'])?.revision ?? data.revision)
    setCounts(queries, data.counts)
    if (data.revision !== known) refreshLists(queries)
    revision = data.revision
  })
  on('moved', () => {
    void queries.invalidateQueries({ queryKey: ['rules', 'hidden'] })
    refreshLists(queries, ['old-mail', 'addresses', 'trash', 'second-look', 'journal', 'follow-up', 'queues'])
    refreshSubscriptions(queries)
    void queries.invalidateQueries({ queryKey: ['editions', 'one'] })
  })
  on('seen', ({ message, seen }) => {
    changeIn(queries, [message], { seen })
  })
  on('rescored', () => {
    refreshLists(queries)
    void queries.invalidateQueries({ queryKey: ['second-look'] })
  })
  on('looked', () => void queries.invalidateQueries({ queryKey: ['second-look'] }))
  on('places', () => void queries.invalidateQueries({ queryKey: ['places'] }))
  on('trays', () => {
    void queries.invalidateQueries({ queryKey: ['trays'] })
    void queries.invalidateQueries({ queryKey: DESK })
  })
  on('rules', () => void queries.invalidateQueries({ queryKey: ['rules'] }))
  on('running', ({ rule, topic, routine, ...told }) => {
    if (routine) noteRoutine({ routine, ...told })
    if (rule) noteRun({ rule, ...told })
    if (topic) noteFinding({ topic, ...told })
  })
  on('topics', () => void queries.invalidateQueries({ queryKey: ['topics'] }))
  on('following', () => {
    refreshLists(queries, ['places', 'follow-up', 'journal'])
  })
  on('routines', () => void queries.invalidateQueries({ queryKey: ['routines'] }))
  on('queues', () => void queries.invalidateQueries({ queryKey: ['queues'] }))
  on('away', () => void queries.invalidateQueries({ queryKey: ['away'] }))
  on('phrases', () => void queries.invalidateQueries({ queryKey: ['phrases'] }))
  on('tags', () => void queries.invalidateQueries({ queryKey: ['tags'] }))
  on('searches', () => void queries.invalidateQueries({ queryKey: ['searches'] }))
  on('import', (job) => {
    importing.value = job
    if (job.state === 'done') refreshLists(queries)
  })
  on('rebuild', (now) => (rebuilding.value = now.done < now.of ? now : null))
  on('rescoring', (now) => (rescoring.value = now.done < now.of ? now : null))
  on('renewing', (now) => (renewing.value = now.done < now.of ? now : null))
  on('trial', (now) => (trying.value = now))
  on('account', () => void queries.invalidateQueries({ queryKey: ['mailboxes'] }))
  on('health', () => void queries.invalidateQueries({ queryKey: ['health'] }))
  on('drafts', () => {
    void queries.invalidateQueries({ queryKey: ['drafts'] })
    refreshOpen(queries)
  })
  on('editions', () => void queries.invalidateQueries({ queryKey: ['editions'] }))
  on('appearance', () => void queries.invalidateQueries({ queryKey: ['appearance'] }))
  on('arranged', tellArranged)
  on('emptying', () => void queries.invalidateQueries({ queryKey: ['trash'] }))
  on('drain', () => void queries.invalidateQueries({ queryKey: ['drain'] }))
  on('elsewhere', () => void queries.invalidateQueries({ queryKey: ['elsewhere'] }))
  watch(inside, (yes) => (yes ? open() : close()), { immediate: true })
  useEventListener(window, 'pagehide', close)
  useEventListener(window, 'pageshow', reopen)
  onScopeDispose(close)
}
