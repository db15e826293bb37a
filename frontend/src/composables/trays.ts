// The Desk in trays: which there are, and what stands in each.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { client, unwrap, type InTrays, type Tray } from '../api/client'
import { useLately } from './lately'
import { DESK } from './messages'

const KEY = ['trays']
/** The trays that are shown whole, by where they stand. */
const whole = ref<readonly number[]>([])

/** The trays as they are set. */
export function useTrays() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: (): Promise<Tray[]> => unwrap(client.GET('/api/trays')) })

  /** Says which trays there are; they stand as they stood where that is refused. Throws then. */
  async function put(trays: readonly Tray[]): Promise<void> {
    const before = queries.getQueryData<Tray[]>(KEY)
    queries.setQueryData<Tray[]>(KEY, [...trays])
    try {
      const body = { trays: trays.map((one) => ({ ...one })) }
      queries.setQueryData(KEY, await unwrap(client.PUT('/api/trays', { body })))
      await queries.invalidateQueries({ queryKey: DESK })
    } catch (error) {
      queries.setQueryData(KEY, before)
      throw error
    }
  }

  /** Brings the trays back to those that ship. Throws where that is refused. */
  async function reset(): Promise<void> {
    queries.setQueryData(KEY, await unwrap(client.DELETE('/api/trays')))
    await queries.invalidateQueries({ queryKey: DESK })
  }

  return { trays: computed(() => query.data.value ?? []), known: query.isSuccess, put, reset }
}

/** What stands in each tray of the Desk, asked for while `on`. It is loaded anew with the lists of mail. */
export function useDesk(on: Ref<boolean>) {
  const { since } = useLately()
  const query = useQuery({
    queryKey: computed(() => [...DESK, since.value, whole.value] as const),
    queryFn: (): Promise<InTrays> =>
      unwrap(client.GET('/api/desk', { params: { query: { since: since.value, whole: [...whole.value] } } })),
    enabled: on,
    placeholderData: (before) => before,
  })

  function toggle(at: number): void {
    whole.value = whole.value.includes(at) ? whole.value.filter((one) => one !== at) : [...whole.value, at]
  }

  /** Shows one tray whole, and no other; none, where it is not named. */
  function showWhole(at: number | undefined): void {
    whole.value = at === undefined ? [] : [at]
  }

  return {
    shown: computed(() => query.data.value?.trays ?? []),
    older: computed(() => query.data.value?.older ?? 0),
    failed: query.error,
    whole,
    toggle,
    showWhole,
  }
}
