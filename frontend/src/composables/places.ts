// The places of mail with their counts; counts come with events, so nothing is asked twice.
import { useQuery, useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Place, type Places } from '../api/client'
import { putAction } from '../lib/actions'

const KEY = ['places']
const DAY = 86_400
const SPANS: Record<Place['rhythm'], number> = { '': 0, daily: DAY, weekly: 7 * DAY }

export function setCounts(queries: QueryClient, counts: Record<string, [number, number]>): void {
  queries.setQueryData<Places>(
    KEY,
    (old) =>
      old && {
        ...old,
        places: old.places.map((place) => {
          const [total, unread] = counts[place.name] ?? [place.total, place.unread]
          return { ...place, total, unread }
        }),
      },
  )
}

/** Moves counts at once, before the server has answered; gives what puts them back. */
export async function shiftCounts(
  queries: QueryClient,
  from: Record<string, number>,
  to: string,
): Promise<() => void> {
  await queries.cancelQueries({ queryKey: KEY })
  const before = queries.getQueryData<Places>(KEY)
  queries.setQueryData<Places>(KEY, (old) => {
    if (!old) return old
    const moved = Object.values(from).reduce((sum, count) => sum + count, 0)
    const places = old.places.map((place) => ({
      ...place,
      total: place.total - (from[place.name] ?? 0) + (place.name === to ? moved : 0),
    }))
    return { ...old, places }
  })
  return () => queries.setQueryData(KEY, before)
}

/** Why a place wants to be looked at now, or an empty string. */
export function noticeOf(place: Place, now: number): string {
  if (place.notice && place.unread >= place.notice) return `${place.unread} wait`
  const span = SPANS[place.rhythm]
  if (span && place.unread && now - place.looked_at >= span) return 'look today'
  return ''
}

export function usePlaces() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/places')) })
  const places = computed<Place[]>(() => query.data.value?.places ?? [])
  const band = computed(() =>
    places.value.filter((place) => place.band >= 0 && (!place.instead || place.total)),
  )
  const quiet = computed(() => places.value.filter((place) => place.band < 0 && !place.own))
  const folders = computed(() => places.value.filter((place) => place.band < 0 && place.own))
  const takers = computed(() => band.value.filter((place) => place.takes))
  /** The buckets by the key that puts mail in each: it stays the bucket's, whichever others are switched off. */
  const slots = computed(() =>
    places.value
      .filter((place) => place.band >= 0 && (place.takes || place.instead))
      .map((place) => place.name),
  )
  const putOf = (name: string) => putAction(slots.value.indexOf(name))
  const taker = (slot: number) => takers.value.find((place) => place.name === slots.value[slot])
  /** Why a key puts mail nowhere now, or an empty string. */
  function offWords(slot: number): string {
    const place = places.value.find((one) => one.name === slots.value[slot])
    const other = titles.value[place?.instead ?? '']
    return place?.instead
      ? `${place.title} is switched off: its mail goes to ${other}. Nothing was moved.`
      : ''
  }
  const titles = computed(() => Object.fromEntries(places.value.map((place) => [place.name, place.title])))
  /** Whether there is no mail at all. */
  const isNew = computed(() => places.value.length > 0 && places.value.every((place) => place.total === 0))
  /** How many messages are due today or overdue. */
  const due = computed(() => query.data.value?.due ?? 0)
  const bounds = computed(
    () => query.data.value?.bounds ?? { ask: 0.1, desk: 0.17, quite: 0.97, fairly: 0.8 },
  )

  async function visited(name: string): Promise<void> {
    const params = { path: { name } }
    await unwrap(client.POST('/api/places/{name}/visit', { params })).catch(() => undefined)
    await queries.invalidateQueries({ queryKey: KEY })
  }

  return { places, band, quiet, folders, takers, titles, bounds, due, isNew, visited, putOf, taker, offWords }
}
