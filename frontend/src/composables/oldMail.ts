// Old mail by what it weighs, and putting it in the Trash.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { client, unwrap } from '../api/client'

const KEY = ['old-mail']
/** Half a year: what is younger is seldom put away by weight. */
export const START = 26
export type By = 'source' | 'domain'

/** How old mail is looked at, while this page is open: looking into a row and coming back leaves it so. */
export const weeks = ref(START)
export const by = ref<By>('source')
export const chosenRows = ref<ReadonlySet<string>>(new Set())

export function useOldMail(weeks: Ref<number>, by: Ref<By>) {
  const queries = useQueryClient()
  const query = useQuery({
    queryKey: computed(() => [...KEY, weeks.value, by.value] as const),
    queryFn: () =>
      unwrap(client.GET('/api/old-mail', { params: { query: { weeks: weeks.value, by: by.value } } })),
    placeholderData: keepPreviousData,
  })

  /** Puts the old mail of rows in the Trash, as one step. Throws when it is refused. */
  async function putAway(keys: readonly string[], kept: boolean) {
    const body = { keys: [...keys], weeks: weeks.value, by: by.value, kept }
    const gone = await unwrap(client.POST('/api/old-mail/trash', { body }))
    await queries.invalidateQueries()
    return gone
  }

  return {
    rows: computed(() => query.data.value?.rows ?? []),
    others: computed(() => query.data.value?.others ?? 0),
    othersSize: computed(() => query.data.value?.others_size ?? 0),
    ages: computed(() => query.data.value?.ages ?? []),
    loading: query.isPending,
    failed: query.error,
    putAway,
  }
}
