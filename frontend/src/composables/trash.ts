// The Trash: what can be taken out of it for good, and doing so.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap } from '../api/client'

const KEY = ['trash']

export function useTrash() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/trash')) })

  /** Takes out for good what it was told to hold. Throws when it is refused, and is looked at again. */
  async function empty(messages: number) {
    try {
      return await unwrap(client.POST('/api/trash/empty', { body: { messages } }))
    } finally {
      await queries.invalidateQueries({ queryKey: KEY })
      await queries.invalidateQueries({ queryKey: ['journal'] })
    }
  }

  return { trash: computed(() => query.data.value), failed: query.error, empty }
}
