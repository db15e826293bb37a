// The phrasebook: stock text kept, put into drafts and replies.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { client, unwrap, type Phrase } from '../api/client'
import { useAttempt } from './attempt'
import { useDrafts } from './drafts'
import { useTeaching } from './teaching'

const KEY = ['phrases']
const NONE = ref(0)

/** The phrases; for a message (0: none) those first that were used for mail like it. */
export function usePhrases(message: Readonly<Ref<number>> = NONE) {
  const queries = useQueryClient()
  const query = useQuery({
    queryKey: computed(() => [...KEY, message.value] as const),
    queryFn: (): Promise<Phrase[]> =>
      unwrap(client.GET('/api/phrases', { params: { query: { message: message.value } } })),
  })
  const all = computed<readonly Phrase[]>(() => query.data.value ?? [])

  async function loaded<T>(work: Promise<T>): Promise<T> {
    const done = await work
    await queries.invalidateQueries({ queryKey: KEY })
    return done
  }

  const path = (number: number) => ({ path: { number } })
  const keep = (short: string, text: string, number = 0) => {
    const body = { short, text }
    return loaded(
      number
        ? unwrap(client.PUT('/api/phrases/{number}', { params: path(number), body }))
        : unwrap(client.POST('/api/phrases', { body })),
    )
  }
  const remove = (number: number) =>
    loaded(unwrap(client.DELETE('/api/phrases/{number}', { params: path(number) })))
  const takeOut = (number: number, file: number) => {
    const params = { path: { number, file } }
    return loaded(unwrap(client.DELETE('/api/phrases/{number}/files/{file}', { params })))
  }
  const attach = (number: number, file: File) => {
    const form = new FormData()
    form.append('file', file)
    const body = form as unknown as { file: string }
    const params = path(number)
    return loaded(
      unwrap(client.POST('/api/phrases/{number}/files', { params, body, bodySerializer: () => form })),
    )
  }
  const takeIn = (body: { format: number; phrases: { short: string; text: string }[] }) =>
    loaded(unwrap(client.POST('/api/phrasebook', { body })))

  return { all, loading: query.isPending, failed: query.error, keep, remove, attach, takeOut, takeIn }
}

export function usePhrasing() {
  const queries = useQueryClient()
  const { put, open } = useDrafts()
  const { show } = useTeaching()
  const { answer } = useAttempt(show)

  /** Fills a phrase in for a draft, whose files go along; the text to put in. Throws when it is refused. */
  async function fillIn(draft: number, phrase: string): Promise<string> {
    const params = { path: { number: draft } }
    const made = await unwrap(client.POST('/api/drafts/{number}/phrase', { params, body: { phrase } }))
    put(made.draft)
    void queries.invalidateQueries({ queryKey: KEY })
    return made.text
  }

  /** Begins a reply that says a phrase, and opens it. */
  async function replyWith(message: number, phrase: string): Promise<void> {
    const params = { path: { number: message } }
    const made = await answer(() =>
      unwrap(client.POST('/api/messages/{number}/phrase', { params, body: { phrase } })),
    )
    if (made) await open(made)
  }

  return { fillIn, replyWith }
}
