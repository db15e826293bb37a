// Drafts, the outbox, and the way back for ten seconds.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { client, unwrap, type Draft, type DraftKind } from '../api/client'
import { useAttempt } from './attempt'
import { useTeaching } from './teaching'

export function useDrafts() {
  const queries = useQueryClient()
  const router = useRouter()
  const { show, tell } = useTeaching()
  const { answer: guarded } = useAttempt(show)
  const { data } = useQuery({
    queryKey: ['drafts'],
    queryFn: () => unwrap(client.GET('/api/drafts')),
  })
  const drafts = computed(() => data.value ?? [])

  function put(draft: Draft): void {
    queries.setQueryData<Draft[]>(['drafts'], (before = []) =>
      before.some((one) => one.id === draft.id)
        ? before.map((one) => (one.id === draft.id ? draft : one))
        : [draft, ...before],
    )
  }

  /** Opens a draft that was begun. */
  async function open(draft: Draft): Promise<void> {
    put(draft)
    await router.push({ name: 'outgoing', params: { draft: String(draft.id) } })
  }

  /** Begins a draft and opens it. */
  async function begin(kind: DraftKind, message?: number): Promise<void> {
    const made = await guarded(() => unwrap(client.POST('/api/drafts', { body: { kind, message } })))
    if (made) await open(made)
  }

  const path = (draft: number) => ({ params: { path: { number: draft } } })

  /** Puts a draft into the outbox: at a time that was typed, or at once; `awaited` is by when an answer is waited for. */
  async function send(draft: number, at = '', awaited = ''): Promise<Draft> {
    const body = { at, awaited }
    const sent = await unwrap(client.POST('/api/drafts/{number}/send', { ...path(draft), body }))
    put(sent)
    return sent
  }

  async function takeBack(draft: number): Promise<void> {
    const back = await guarded(() => unwrap(client.POST('/api/drafts/{number}/back', path(draft))))
    if (back) await open(back)
  }

  /** Discards a draft; where anything was written in it, undo brings it back. Tells whether it was discarded. */
  async function discard(draft: number): Promise<boolean> {
    const step = await guarded(() => unwrap(client.DELETE('/api/drafts/{number}', path(draft))))
    if (step) tell(`${step.title}.`)
    await queries.invalidateQueries({ queryKey: ['drafts'] })
    return step !== undefined
  }

  const loaded = computed(() => data.value !== undefined)

  return { drafts, loaded, put, open, begin, send, takeBack, discard }
}
