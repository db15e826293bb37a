// Verdicts and what follows from them: shown at once, put back when the server refuses.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, readonly, ref } from 'vue'
import { client, unwrap, type Kin, type Message, type Outcome, type Reach, type Step } from '../api/client'
import { subjectOf } from '../lib/words'
import { refreshLists, takeOut } from './messages'
import { shiftCounts, usePlaces } from './places'

interface Effect {
  outcome: Outcome
  title: string
  belongs: string
  pulled: boolean
}

const reach = ref<Reach>('learn')
const effect = ref<Effect | null>(null)
const said = ref('')
const busy = ref(0)

export function useTeaching() {
  const queries = useQueryClient()
  const { titles } = usePlaces()

  async function guarded<T>(work: () => Promise<T>): Promise<T | undefined> {
    busy.value++
    try {
      return await work()
    } catch (error) {
      said.value = (error as Error).message
      return undefined
    } finally {
      busy.value--
    }
  }

  async function put(messages: Message[], belongs: string): Promise<void> {
    if (messages.length === 0) return
    const from: Record<string, number> = {}
    for (const one of messages) from[one.place] = (from[one.place] ?? 0) + 1
    const back = takeOut(queries, new Set(messages.map((one) => one.id)))
    shiftCounts(queries, from, belongs)
    const body = { messages: messages.map((one) => one.id), belongs, reach: reach.value }
    const outcome = await guarded(() => unwrap(client.POST('/api/verdicts', { body })))
    if (!outcome) {
      back()
      void queries.invalidateQueries({ queryKey: ['places'] })
      return
    }
    const first = messages[0]
    const title =
      messages.length === 1 && first ? `“${subjectOf(first.subject)}”` : `${messages.length} messages`
    effect.value = { outcome, title, belongs, pulled: outcome.followed > 0 }
    said.value = `${title}: ${titles.value[belongs] ?? belongs}. ${kinWords(outcome)}`
    reach.value = 'learn'
    refreshLists(queries)
  }

  async function follow(kin: readonly Kin[]): Promise<void> {
    const current = effect.value
    if (!current || kin.length === 0) return
    const body = { messages: kin.map((one) => one.message.id) }
    const params = { path: { step: current.outcome.step } }
    const step = await guarded(() => unwrap(client.POST('/api/steps/{step}/kin', { params, body })))
    if (!step) return
    effect.value = { ...current, pulled: true }
    refreshLists(queries)
    said.value = `${step.messages} kin followed.`
  }

  async function undo(step?: number): Promise<Step | undefined> {
    const answer = step
      ? () => client.POST('/api/steps/{step}/undo', { params: { path: { step } } })
      : () => client.POST('/api/undo')
    const undone = await guarded(() => unwrap(answer()))
    if (!undone) return undefined
    said.value = `Undone: ${undone.title}`
    if (effect.value?.outcome.step === undone.id) effect.value = null
    else if (effect.value) effect.value = { ...effect.value, pulled: false }
    refreshLists(queries)
    return undone
  }

  function dismiss(): void {
    effect.value = null
  }

  function say(text: string): void {
    said.value = text
  }

  const working = computed(() => busy.value > 0)
  return { reach, effect: readonly(effect), said: readonly(said), working, put, follow, undo, dismiss, say }
}

export function kinWords(outcome: Pick<Outcome, 'kin_total'>): string {
  if (outcome.kin_total === 0) return 'No other message would follow.'
  return outcome.kin_total === 1 ? '1 kin would follow.' : `${outcome.kin_total} kin would follow.`
}
