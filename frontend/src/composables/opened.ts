// A message opened: what it says, and what may be done about what it keeps out.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, type Ref } from 'vue'
import { client, unwrap } from '../api/client'
import { useAttempt } from './attempt'
import { useTeaching } from './teaching'

/** Messages whose pictures were asked for since the page was loaded. */
const asked = reactive(new Set<number>())

export function useOpened(number: Ref<number>) {
  const queries = useQueryClient()
  const { show } = useTeaching()
  const { answer } = useAttempt(show)
  const path = computed(() => ({ params: { path: { number: number.value } } }))
  const { data, error, isPending } = useQuery({
    queryKey: computed(() => ['opened', number.value]),
    queryFn: () => unwrap(client.GET('/api/messages/{number}', path.value)),
    staleTime: 0,
    // The message before stays in sight until this one is here: nothing flickers, and keys are answered sooner.
    placeholderData: keepPreviousData,
  })
  const pictures = computed(() => {
    const one = data.value
    return one !== undefined && (asked.has(one.message.id) || one.pictured)
  })

  function showPictures(): void {
    if (data.value?.blocked) asked.add(data.value.message.id)
  }

  async function guarded(work: () => Promise<string>): Promise<void> {
    const told = await answer(work)
    if (told === undefined) return
    show(told)
    await queries.invalidateQueries({ queryKey: ['opened'] })
  }

  const alwaysPictures = () =>
    guarded(async () => {
      const address = data.value?.sender.address ?? ''
      await unwrap(client.PUT('/api/pictured', { body: { address, wanted: true } }))
      await queries.invalidateQueries({ queryKey: ['pictured'] })
      return `Pictures from ${address} are loaded from now on.`
    })

  const vouch = () =>
    guarded(async () => {
      const body = { kind: 'address' as const, message: data.value?.message.id ?? number.value, key: '' }
      const one = await unwrap(client.POST('/api/vouched', { body }))
      await queries.invalidateQueries({ queryKey: ['vouched'] })
      return `${one.name || one.key} is vouched for: new mail from there stays on the Desk.`
    })

  return { opened: data, failed: error, waiting: isPending, pictures, showPictures, alwaysPictures, vouch }
}
