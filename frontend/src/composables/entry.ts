// Who is signed in; the demo lets everybody on this machine in.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { client, signedOut, unwrap } from '../api/client'

export function useEntry() {
  const queries = useQueryClient()
  const {
    data: entry,
    error: failed,
    refetch: again,
  } = useQuery({
    queryKey: ['entry'],
    queryFn: () => unwrap(client.GET('/api/entry')),
    staleTime: Infinity,
  })
  const inside = computed(() => entry.value?.signed_in ?? false)

  watch(signedOut, () => void queries.invalidateQueries({ queryKey: ['entry'] }))

  async function signIn(password: string, code = ''): Promise<void> {
    const answer = code
      ? client.POST('/api/entry/first', { body: { code, password } })
      : client.POST('/api/entry', { body: { password } })
    const made = await unwrap(answer)
    queries.setQueryData(['entry'], made)
    await queries.resetQueries({ predicate: (one) => one.queryKey[0] !== 'entry' })
  }

  async function signOut(): Promise<void> {
    await unwrap(client.DELETE('/api/entry'))
    await queries.invalidateQueries({ queryKey: ['entry'] })
  }

  return { entry, inside, failed, again, signIn, signOut }
}
