// The owner's settings, kept on the server.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { client, unwrap, type Settings } from '../api/client'
import { useAttempt } from './attempt'

/** The settings, and what saves a change of them; `tell` is given the sentence that says what came of it. */
export function useSettings(tell: (text: string) => void) {
  const queries = useQueryClient()
  const { data: settings } = useQuery({
    queryKey: ['settings'],
    queryFn: () => unwrap(client.GET('/api/settings')),
  })
  const { answer } = useAttempt(tell)

  async function save(change: Partial<Settings>): Promise<void> {
    const now = await answer(() => unwrap(client.PUT('/api/settings', { body: change })))
    if (!now) return
    queries.setQueryData(['settings'], now)
    tell('Saved. It holds for mail that arrives from now on.')
  }

  return { settings, save }
}
