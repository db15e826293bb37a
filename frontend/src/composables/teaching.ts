// Steps with mail and what follows from them: shown at once, put back when the server refuses.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onUnmounted, readonly, ref } from 'vue'
import {
  client,
  unwrap,
  type Kin,
  type Mark,
  type Message,
  type Outcome,
  type Reach,
  type Source,
  type Step,
} from '../api/client'
import { inPlace, promiseWords, subjectOf } from '../lib/words'
import { useAttempt } from './attempt'
import { marked, refreshLists, takeOut } from './messages'
import { shiftCounts, usePlaces } from './places'

interface Effect {
  text: string
  outcome?: Outcome
  pulled: boolean
  /** No step stands behind it that could be undone: a refusal, or something only told. */
  only?: boolean
  /** What is done where the owner says that they mean it, and how they say so. */
  meant?: () => Promise<unknown>
  yes?: string
  /** Ends that mail of a sender or list is refused. */
  stop?: () => Promise<unknown>
  /** Lets what was learned hold for always, where that can still be said. */
  always?: () => Promise<unknown>
}

/** Messages a step is about: their ids, and the rows of those that are loaded. */
export interface Chosen {
  ids: readonly number[]
  rows: readonly Message[]
  place: string
}

const MARKS: Record<Mark, Partial<Message>> = {
  read: { seen: true },
  unread: { seen: false },
  flagged: { flagged: true },
  unflagged: { flagged: false },
}
const reach = ref<Reach>('learn')
const effect = ref<Effect | null>(null)
const said = ref('')
const strips = ref(0)
const busy = ref(0)

/** Whether a strip on the page tells what was done: then nothing else tells it. */
export const hasStrip = computed(() => strips.value > 0)

/** Says of a component, while it is there, that it tells what was done. */
export function tellsEffect(): void {
  strips.value++
  onUnmounted(() => strips.value--)
}

/** How messages are called: by the subject of the one, or by how many they are. */
export function titleOf({ ids, rows }: Pick<Chosen, 'ids' | 'rows'>): string {
  const first = rows[0]
  return ids.length === 1 && first ? `“${subjectOf(first.subject)}”` : `${ids.length} messages`
}

export function useTeaching() {
  const queries = useQueryClient()
  const { titles } = usePlaces()

  const { answer } = useAttempt(show, (why) => show(why, meant))
  let meant: (() => Promise<unknown>) | undefined

  async function guarded<T>(work: () => Promise<T>): Promise<T | undefined> {
    busy.value++
    return answer(work).finally(() => busy.value--)
  }

  /** Takes messages out of their lists while the server works; puts them back when it refuses. */
  async function moved<T>(chosen: Chosen, target: string, work: () => Promise<T>): Promise<T | undefined> {
    const from: Record<string, number> = {}
    const known = new Map(chosen.rows.map((one) => [one.id, one.place]))
    for (const id of chosen.ids) {
      const place = known.get(id) ?? chosen.place
      from[place] = (from[place] ?? 0) + 1
    }
    const back = await takeOut(queries, new Set(chosen.ids))
    const recount = await shiftCounts(queries, from, target)
    const made = await guarded(work)
    if (made === undefined) {
      back()
      recount()
      void queries.invalidateQueries({ queryKey: ['places'] })
    }
    refreshLists(queries)
    return made
  }

  /** Tells of a step that was made, and what follows from it. */
  function tell(text: string, outcome?: Outcome): void {
    effect.value = { text, outcome, pulled: (outcome?.followed ?? 0) > 0 }
    said.value = outcome
      ? [text, promiseWords(outcome.promise, titles.value), kinWords(outcome)].join(' ')
      : text
  }

  /** Puts messages where they belong; whether that was done. `again` does it once the owner says that they mean it, where
   * it asks; `instead` is a step whose place it takes. */
  async function put(
    chosen: Chosen,
    belongs: string,
    how: Reach = reach.value,
    confirmed = false,
    again: () => Promise<unknown> = () => put(chosen, belongs, how, true),
    instead = 0,
  ): Promise<boolean> {
    if (chosen.ids.length === 0) return false
    const body = { messages: [...chosen.ids], belongs, reach: how, confirmed, instead }
    meant = again
    const outcome = await moved(chosen, belongs, () => unwrap(client.POST('/api/verdicts', { body })))
    if (!outcome) return false
    tell(`${titleOf(chosen)} is ${inPlace(belongs, titles.value)}.`, outcome)
    offer(chosen, belongs, how, outcome)
    reach.value = 'learn'
    return true
  }

  /** What can be said for always after a verdict, or said no more. */
  function offer(chosen: Chosen, belongs: string, how: Reach, outcome: Outcome): void {
    const promise = outcome.promise
    if (!effect.value || !promise) return
    if (how === 'learn' && !promise.said)
      effect.value.always = () => always(chosen, belongs, promise.listed ? 'list' : 'address', outcome.step)
    if (promise.said && promise.place === 'drain' && belongs !== 'drain')
      effect.value.stop = () => stopRefusing(promise.said)
  }

  /** A verdict holds for always: one step takes the place of the other, in one change. */
  function always(
    chosen: Chosen,
    belongs: string,
    how: Reach,
    instead: number,
    confirmed = false,
  ): Promise<unknown> {
    const again = () => always(chosen, belongs, how, instead, true)
    return put(chosen, belongs, how, confirmed, again, instead)
  }

  /** Mail of a sender or list is no longer refused; what came stays where it stands. */
  async function stopRefusing(said: string): Promise<void> {
    const at = said.indexOf(':')
    const kind = said.slice(0, at) as 'address' | 'list' | 'domain'
    const body = { kind, key: said.slice(at + 1), what: 'refused' as const }
    const step = await guarded(() => unwrap(client.POST('/api/said/end', { body })))
    if (step) tell(`${step.title}.`)
    await queries.invalidateQueries({ queryKey: ['opened'] })
  }

  /** Puts all mail of a source in a place, as one step; `forGood` for what comes too; whether
   * that was done. `again` does it once the owner says that they mean it, where it asks. */
  async function putSource(
    place: string,
    source: Source,
    belongs: string,
    forGood: boolean,
    again: () => Promise<unknown>,
    confirmed = false,
  ): Promise<boolean> {
    const params = { path: { name: place } }
    const body = { source: source.key, belongs, always: forGood, confirmed }
    meant = again
    const outcome = await guarded(() =>
      unwrap(client.POST('/api/places/{name}/sources/verdict', { params, body })),
    )
    if (!outcome) return false
    const what = `${outcome.moved === 1 ? 'One message' : `${outcome.moved} messages`} of ${source.name}`
    tell(`${what} ${inPlace(belongs, titles.value)}${forGood ? ', and all that comes' : ''}.`, outcome)
    void queries.invalidateQueries({ queryKey: ['places'] })
    refreshLists(queries)
    return true
  }

  async function weigh(chosen: Chosen, up: boolean): Promise<void> {
    if (chosen.ids.length === 0) return
    const body = { messages: [...chosen.ids], up }
    const outcome = await guarded(() => unwrap(client.POST('/api/weighings', { body })))
    if (!outcome) return
    tell(`${titleOf(chosen)} matters ${up ? 'more' : 'less'}, and stays where it stands.`, outcome)
    refreshLists(queries)
  }

  async function file(chosen: Chosen, place: string): Promise<boolean> {
    if (chosen.ids.length === 0) return false
    const body = { messages: [...chosen.ids], place }
    const filed = await moved(chosen, place, () => unwrap(client.POST('/api/filed', { body })))
    if (filed?.step) tell(`${titleOf(chosen)} is ${inPlace(place, titles.value)}.`)
    return filed !== undefined
  }

  async function back(chosen: Chosen): Promise<void> {
    if (chosen.ids.length === 0) return
    const body = { messages: [...chosen.ids] }
    const filed = await guarded(() => unwrap(client.POST('/api/filed/back', { body })))
    if (filed?.step) tell(`${titleOf(chosen)} is back where it stood.`)
    refreshLists(queries)
  }

  async function mark(chosen: Chosen, wanted: Mark): Promise<void> {
    if (chosen.ids.length === 0) return
    const back = await marked(queries, chosen.ids, MARKS[wanted])
    const body = { messages: [...chosen.ids], mark: wanted }
    const filed = await guarded(() => unwrap(client.POST('/api/marks', { body })))
    if (!filed) back()
    if (filed?.step) said.value = `${titleOf(chosen)}: ${wanted}.`
    else refreshLists(queries)
  }

  async function follow(kin: readonly Kin[]): Promise<void> {
    const current = effect.value
    if (!current?.outcome || kin.length === 0) return
    const body = { messages: kin.map((one) => one.message.id) }
    const params = { path: { step: current.outcome.step } }
    const step = await guarded(() => unwrap(client.POST('/api/steps/{step}/kin', { params, body })))
    if (!step) return
    effect.value = { ...current, pulled: true }
    refreshLists(queries)
    said.value = `${step.messages} similar messages moved.`
  }

  async function undo(step?: number): Promise<Step | undefined> {
    const request = step
      ? () => client.POST('/api/steps/{step}/undo', { params: { path: { step } } })
      : () => client.POST('/api/undo')
    const undone = await guarded(() => unwrap(request()))
    if (!undone) return undefined
    const current = effect.value
    if (current?.outcome && current.outcome.step !== undone.id) effect.value = { ...current, pulled: false }
    else effect.value = { text: `Undone: ${undone.title}`, pulled: false }
    said.value = `Undone: ${undone.title}`
    if (undone.problems.length) show(`Undone, but not at the server. ${undone.problems.join(' ')}`)
    refreshLists(queries)
    return undone
  }

  function dismiss(): void {
    effect.value = null
  }

  /** Tells in sight and to listeners, where no step was made. */
  function show(text: string, meant?: () => Promise<unknown>, yes = 'From now on'): void {
    effect.value = { text, pulled: false, only: true, meant, yes }
    said.value = text
  }

  /** Tells listeners what others see anyhow. */
  function say(text: string): void {
    said.value = text
  }

  const working = computed(() => busy.value > 0)
  const verbs = {
    put,
    putSource,
    stopRefusing,
    tell,
    weigh,
    file,
    back,
    mark,
    follow,
    undo,
    dismiss,
    say,
    show,
  }
  return { reach, effect: readonly(effect), said: readonly(said), working, ...verbs }
}

export function kinWords(outcome: Pick<Outcome, 'kin_total'>): string {
  if (outcome.kin_total === 0) return ''
  return outcome.kin_total === 1
    ? '1 similar message would move too.'
    : `${outcome.kin_total} similar messages would move too.`
}
