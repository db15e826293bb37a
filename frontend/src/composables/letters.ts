// Letters: drafts, the outbox, and the way back for ten seconds.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { client, unwrap, type Letter, type LetterKind } from '../api/client'
import { useTeaching } from './teaching'

export function useLetters() {
  const queries = useQueryClient()
  const router = useRouter()
  const { show } = useTeaching()
  const { data } = useQuery({
    queryKey: ['letters'],
    queryFn: () => unwrap(client.GET('/api/letters')),
  })
  const letters = computed(() => data.value ?? [])

  function put(letter: Letter): void {
    queries.setQueryData<Letter[]>(['letters'], (before = []) =>
      before.some((one) => one.id === letter.id)
        ? before.map((one) => (one.id === letter.id ? letter : one))
        : [letter, ...before],
    )
  }

  async function guarded<T>(work: () => Promise<T>): Promise<T | undefined> {
    try {
      return await work()
    } catch (error) {
      show((error as Error).message)
      return undefined
    }
  }

  /** Begins a letter and opens it. */
  async function begin(kind: LetterKind, message?: number): Promise<void> {
    const made = await guarded(() => unwrap(client.POST('/api/letters', { body: { kind, message } })))
    if (!made) return
    put(made)
    await router.push({ name: 'letters', params: { letter: String(made.id) } })
  }

  const path = (letter: number) => ({ params: { path: { number: letter } } })

  async function send(letter: number): Promise<Letter> {
    const sent = await unwrap(client.POST('/api/letters/{number}/send', path(letter)))
    put(sent)
    return sent
  }

  async function takeBack(letter: number): Promise<void> {
    const back = await guarded(() => unwrap(client.POST('/api/letters/{number}/back', path(letter))))
    if (!back) return
    put(back)
    await router.push({ name: 'letters', params: { letter: String(letter) } })
  }

  async function throwAway(letter: number): Promise<void> {
    await guarded(() => unwrap(client.DELETE('/api/letters/{number}', path(letter))))
    await queries.invalidateQueries({ queryKey: ['letters'] })
  }

  return { letters, put, begin, send, takeBack, throwAway }
}
