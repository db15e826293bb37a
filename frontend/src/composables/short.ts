// The short of a message or thread, where things stand with somebody, and a sentence that is sought in its message.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { client, unwrap, type Briefing, type ShortPart } from '../api/client'

/** What stands above the open message: the short of it, where things stand with its sender, or nothing. */
export const above = ref<'' | 'short' | 'standing'>('')
/** A sentence that is sought, in which message; who shows that brings it into sight. */
export const sought = ref<{ message: number; text: string } | null>(null)

export function useShort(number: Readonly<Ref<number>>, thread: Readonly<Ref<boolean>>) {
  return useQuery({
    queryKey: computed(() => ['short', number.value, thread.value] as const),
    queryFn: (): Promise<ShortPart[]> => {
      const params = { path: { number: number.value }, query: { thread: thread.value } }
      return unwrap(client.GET('/api/messages/{number}/short', { params }))
    },
  })
}

export function useStanding(address: Readonly<Ref<string>>) {
  return useQuery({
    queryKey: computed(() => ['standing', address.value] as const),
    queryFn: (): Promise<Briefing> =>
      unwrap(client.GET('/api/standing', { params: { query: { address: address.value } } })),
    enabled: computed(() => address.value !== ''),
    staleTime: 0,
    retry: false,
  })
}
