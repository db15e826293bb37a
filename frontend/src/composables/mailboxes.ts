// The mailboxes on servers and how they are.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Mailbox } from '../api/client'

export function useMailboxes() {
  const queries = useQueryClient()
  const { data } = useQuery({
    queryKey: ['mailboxes'],
    queryFn: () => unwrap(client.GET('/api/mailboxes')),
  })
  const mailboxes = computed(() => data.value?.mailboxes ?? [])
  const keepers = computed(() => data.value?.keepers ?? { keyring: false, sealed: false })

  async function refresh(): Promise<void> {
    await queries.invalidateQueries({ queryKey: ['mailboxes'] })
  }

  const path = (number: number) => ({ params: { path: { number } } })

  async function route(one: Mailbox, on: boolean): Promise<void> {
    await unwrap(client.POST('/api/mailboxes/{number}/routing', { ...path(one.id), body: { on } }))
    await refresh()
  }

  async function pause(one: Mailbox, on: boolean): Promise<void> {
    await unwrap(client.POST('/api/mailboxes/{number}/pause', { ...path(one.id), body: { on } }))
    await refresh()
  }

  async function look(one: Mailbox): Promise<void> {
    await unwrap(client.POST('/api/mailboxes/{number}/look', path(one.id)))
    await refresh()
  }

  const loaded = computed(() => data.value !== undefined)

  return { mailboxes, loaded, keepers, refresh, route, pause, look }
}

/** How a mailbox is, in a few words. */
export function stateWords(one: Mailbox): string {
  if (one.paused) return 'paused'
  if (one.error) return 'not reached'
  if (one.state === 'new') return 'about to be read'
  if (one.state === 'reading') return `reading: ${one.done} of ${one.total}`
  if (one.state === 'weighing') return 'weighing what was read'
  if (one.waiting) return `${one.waiting} still to be moved`
  return one.routing ? 'watched, mail is moved' : 'watched, nothing is moved'
}
