// The owner's tags: which there are, put on mail and taken off, made and changed.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Tag, type TagChange, type Tags } from '../api/client'
import { refreshLists } from './messages'
import { useTeaching, type Chosen } from './teaching'

const KEY = ['tags']
/** The tag that is dragged from the list of tags, by its name, while it is. */
export const draggedTag = ref('')
/** The tags of what is chosen now: what can be taken off it. */
export const carried = ref<readonly number[]>([])

/** How a search line asks for a tag. */
export function tagLine(name: string): string {
  return /[\s()]/.test(name) ? `tag:"${name}"` : `tag:${name}`
}

export function useTags() {
  const queries = useQueryClient()
  const teaching = useTeaching()
  const query = useQuery({ queryKey: KEY, queryFn: (): Promise<Tags> => unwrap(client.GET('/api/tags')) })
  const all = computed<readonly Tag[]>(() => query.data.value?.tags ?? [])
  const byId = computed(() => new Map(all.value.map((one) => [one.id, one])))

  function named(what: Chosen): string {
    return what.ids.length === 1 ? 'Tagged' : `${what.ids.length} messages tagged`
  }

  async function loaded<T>(work: Promise<T>): Promise<T> {
    const done = await work
    refreshLists(queries)
    await queries.invalidateQueries({ queryKey: KEY })
    return done
  }

  /** Puts a tag on mail, which is made where there is none of that name; `away` archives the mail too. */
  async function put(what: Chosen, name: string, away = false): Promise<void> {
    if (!what.ids.length) return
    try {
      const body = { messages: [...what.ids], name, away }
      const filed = await loaded(unwrap(client.POST('/api/tagged', { body })))
      if (filed.step) teaching.tell(`${named(what)} ${name}${away ? ', and in the Archive' : ''}.`)
      else teaching.show(`It carries ${name} already.`)
    } catch (error) {
      teaching.show((error as Error).message)
    }
  }

  /** Takes a tag off mail. */
  async function takeOff(what: Chosen, name: string): Promise<void> {
    const tag = all.value.find((one) => one.name === name)
    if (!tag || !what.ids.length) return
    try {
      const body = { messages: [...what.ids], tag: tag.id }
      const filed = await loaded(unwrap(client.POST('/api/tagged/off', { body })))
      if (filed.step) teaching.tell(`${name} taken off.`)
    } catch (error) {
      teaching.show((error as Error).message)
    }
  }

  const make = (name: string, parent = 0) =>
    loaded(unwrap(client.POST('/api/tags', { body: { name, parent } })))
  const change = (tag: Tag, body: TagChange) =>
    loaded(unwrap(client.PATCH('/api/tags/{number}', { params: { path: { number: tag.id } }, body })))
  const merge = (tag: Tag, into: number) => {
    const params = { path: { number: tag.id } }
    return loaded(unwrap(client.POST('/api/tags/{number}/merge', { params, body: { into } })))
  }
  const remove = (tag: Tag, confirmed: boolean) =>
    loaded(
      unwrap(
        client.DELETE('/api/tags/{number}', { params: { path: { number: tag.id }, query: { confirmed } } }),
      ),
    )
  const adopt = (keyword: string) =>
    loaded(unwrap(client.POST('/api/tags/adopted', { body: { keyword, name: '' } })))

  return {
    all,
    byId,
    foreign: computed(() => query.data.value?.foreign ?? []),
    keptHere: computed(() => query.data.value?.kept_here ?? []),
    loading: query.isPending,
    failed: query.error,
    put,
    takeOff,
    make,
    change,
    merge,
    remove,
    adopt,
  }
}
