// Following through: due dates, parked mail, what is owed, and times as they are typed.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import {
  client,
  unwrap,
  type Filed,
  type FollowUp,
  type FollowUpSettings,
  type OwedLists,
} from '../api/client'
import { useAttempt } from './attempt'
import { useDrafts } from './drafts'
import { refreshLists } from './messages'
import { titleOf, useTeaching, type Chosen } from './teaching'

const KEY = ['follow-up']
const PAUSE = 150
/** The message that times are offered for, or 0. */
export const timedFor = ref(0)

export function useFollowing() {
  const queries = useQueryClient()
  const teaching = useTeaching()
  const { open } = useDrafts()
  const { answer } = useAttempt(teaching.show)

  async function step(work: () => Promise<Filed>, text: string): Promise<void> {
    const filed = await answer(work)
    if (filed?.step) teaching.tell(text)
    else if (filed) teaching.show('Nothing had to change.')
    refreshLists(queries, ['follow-up', 'places'])
  }

  const body = (what: Chosen, said: string) => ({ messages: [...what.ids], said })
  const setDue = (what: Chosen, said: string) =>
    step(
      () => unwrap(client.POST('/api/due', { body: body(what, said) })),
      `${titleOf(what)} is due ${said}.`,
    )
  const park = (what: Chosen, said: string, answer: boolean | null = null) =>
    step(
      () => unwrap(client.POST('/api/parked', { body: { ...body(what, said), answer } })),
      `${titleOf(what)} is parked until ${said || 'somebody answers'}.`,
    )
  const done = (what: Chosen) =>
    step(
      () => unwrap(client.POST('/api/due/done', { body: { messages: [...what.ids] } })),
      `${titleOf(what)} is done.`,
    )
  const awaitAnswer = (what: Chosen, said: string) =>
    step(
      () => unwrap(client.POST('/api/awaited', { body: body(what, said) })),
      `You get a reminder if nobody has answered ${titleOf(what)} by ${said}.`,
    )
  const letGo = (what: Chosen, promised: boolean) =>
    step(
      () => unwrap(client.POST('/api/owed/let-go', { body: { messages: [...what.ids], promised } })),
      `Nothing is owed for ${titleOf(what)} any more.`,
    )

  /** Begins a reply that quotes the open question, and opens it. */
  async function askAgain(message: number): Promise<void> {
    const params = { path: { number: message } }
    const made = await answer(() => unwrap(client.POST('/api/messages/{number}/ask-again', { params })))
    if (made) await open(made)
  }

  return { setDue, park, done, awaitAnswer, letGo, askAgain }
}

/** What is due, and what is parked. */
export function useFollowUp() {
  return useQuery({
    queryKey: [...KEY, 'lists'],
    queryFn: (): Promise<FollowUp> => unwrap(client.GET('/api/follow-up')),
  })
}

/** What is owed, both ways. */
export function useOwed() {
  return useQuery({
    queryKey: [...KEY, 'owed'],
    queryFn: (): Promise<OwedLists> => unwrap(client.GET('/api/owed')),
  })
}

/** The times that are offered for the message at hand, while they are wanted. */
export function useOfferedTimes(wanted: Readonly<Ref<boolean>>) {
  const { data } = useQuery({
    queryKey: computed(() => ['times', timedFor.value] as const),
    queryFn: () => unwrap(client.GET('/api/times', { params: { query: { message: timedFor.value } } })),
    enabled: wanted,
    staleTime: 0,
  })
  return computed(() => data.value ?? [])
}

/** What is understood of a time that is typed, and why nothing is. */
export function useTime(typed: Readonly<Ref<string>>) {
  const settled = refDebounced(typed, PAUSE)
  const { data, error } = useQuery({
    queryKey: computed(() => ['when', settled.value.trim()] as const),
    queryFn: () => unwrap(client.GET('/api/when', { params: { query: { said: settled.value.trim() } } })),
    enabled: computed(() => Boolean(settled.value.trim())),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 0,
  })
  const understood = computed(() => (typed.value.trim() ? (data.value?.shown ?? '') : ''))
  const problem = computed(() => (typed.value.trim() ? (error.value?.message ?? '') : ''))
  return { understood, problem }
}

/** When a day begins, what brings parked mail back, and whether calendars may read what is due. */
export function useFollowUpSettings() {
  const queries = useQueryClient()
  const key = [...KEY, 'settings']
  const { data: settings } = useQuery({
    queryKey: key,
    queryFn: (): Promise<FollowUpSettings> => unwrap(client.GET('/api/follow-up/settings')),
  })
  /** The address calendars read at, told once. */
  const address = ref('')

  async function put(morning: number, answerReturns: boolean): Promise<void> {
    const body = { morning, answer_returns: answerReturns }
    queries.setQueryData(key, await unwrap(client.PUT('/api/follow-up/settings', { body })))
  }

  async function open(): Promise<void> {
    const made = await unwrap(client.POST('/api/due/feed'))
    address.value = new URL(made.path, window.location.href).href
    await queries.invalidateQueries({ queryKey: key })
  }

  async function close(): Promise<void> {
    await unwrap(client.DELETE('/api/due/feed'))
    address.value = ''
    await queries.invalidateQueries({ queryKey: key })
  }

  return { settings, address, put, open, close }
}
