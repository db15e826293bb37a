// Trying the engine on an archive: look at its folders, say what each is, run, read the figures.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, unwrap, type Folder } from '../api/client'
import { useAttempt } from './attempt'
import { useStatus } from './events'

export interface Choice extends Folder {
  place: string
}

export function useTrial() {
  const queries = useQueryClient()
  const { trying } = useStatus()
  const { data: trial } = useQuery({ queryKey: ['trial'], queryFn: () => unwrap(client.GET('/api/trial')) })
  const path = ref('')
  const folders = ref<Choice[]>([])
  const correct = ref(1)
  const { problem, attempt } = useAttempt()
  const progress = computed(() => trying.value ?? trial.value)
  const running = computed(() => ['reading', 'replaying'].includes(progress.value?.state ?? ''))

  watch(
    () => trying.value?.state,
    () => void queries.invalidateQueries({ queryKey: ['trial'] }),
  )

  const look = () =>
    attempt(async () => {
      folders.value = []
      const found = await unwrap(client.POST('/api/archive', { body: { path: path.value } }))
      folders.value = found.map((one) => ({ ...one, place: one.suggested }))
    })

  const start = () =>
    attempt(async () => {
      const places = Object.fromEntries(
        folders.value.filter((one) => one.place).map((one) => [one.name, one.place]),
      )
      const body = { path: path.value, places, correct: correct.value }
      queries.setQueryData(['trial'], await unwrap(client.POST('/api/trial', { body })))
    })

  const stop = () =>
    attempt(async () => {
      queries.setQueryData(['trial'], await unwrap(client.DELETE('/api/trial')))
    })

  return { trial, progress, running, path, folders, correct, problem, look, start, stop }
}
