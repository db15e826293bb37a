// The places of mail with their counts; counts come with events, so nothing is asked twice.
import { useQuery, useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Place, type Places } from '../api/client'

const KEY = ['places']

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

/** Moves counts at once, before the server has answered. */
export function shiftCounts(queries: QueryClient, from: Record<string, number>, to: string): void {
  queries.setQueryData<Places>(KEY, (old) => {
    if (!old) return old
    const moved = Object.values(from).reduce((sum, count) => sum + count, 0)
    const places = old.places.map((place) => ({
      ...place,
      total: place.total - (from[place.name] ?? 0) + (place.name === to ? moved : 0),
    }))
    return { ...old, places }
  })
}

export function usePlaces() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/places')) })
  const places = computed<Place[]>(() => query.data.value?.places ?? [])
  const band = computed(() => places.value.filter((place) => place.band >= 0))
  const quiet = computed(() => places.value.filter((place) => place.band < 0))
  const takers = computed(() => band.value.filter((place) => place.key !== ''))
  const titles = computed(() => Object.fromEntries(places.value.map((place) => [place.name, place.title])))
  const bounds = computed(() => query.data.value?.bounds ?? { ask: 0.1, desk: 0.17 })
  const refresh = () => queries.invalidateQueries({ queryKey: KEY })
  return { places, band, quiet, takers, titles, bounds, refresh }
}
