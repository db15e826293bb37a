// Routines: kept, tried, done to what is open or selected.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, readonly, ref } from 'vue'
import {
  client,
  unwrap,
  type RanRoutine,
  type Routine,
  type RoutineAction,
  type RoutineGiven,
  type TriedRoutine,
} from '../api/client'
import { ranWords } from '../lib/routines'
import { useAttempt } from './attempt'
import { useDrafts } from './drafts'
import { refreshLists } from './messages'
import { titleOf, useTeaching, type Chosen } from './teaching'

const KEY = ['routines']
/** A routine that cannot be done to some of what was chosen: asked about before anything is done. */
const halted = ref<{ routine: Routine; what: Chosen; refused: RanRoutine['refused'] } | null>(null)
/** How far one is that is under way. */
const running = ref<{ routine: number; done: number; of: number } | null>(null)

/** Notes what the server tells of one under way. */
export function noteRoutine(told: { routine: number; done: number; of: number }): void {
  if (running.value?.routine === told.routine) running.value = told
}

export function useRoutines() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/routines')) })
  const all = computed<readonly Routine[]>(() => query.data.value?.routines ?? [])
  const doings = computed(() => query.data.value?.doings ?? [])

  async function loaded<T>(work: Promise<T>): Promise<T> {
    const done = await work
    await queries.invalidateQueries({ queryKey: KEY })
    return done
  }

  /** Keeps a routine, a new one where `number` is 0. Throws when it is refused. */
  function keep(number: number, body: RoutineGiven): Promise<Routine> {
    const params = { path: { number } }
    return loaded(
      unwrap(
        number
          ? client.PUT('/api/routines/{number}', { params, body })
          : client.POST('/api/routines', { body }),
      ),
    )
  }
  const remove = (number: number) =>
    loaded(unwrap(client.DELETE('/api/routines/{number}', { params: { path: { number } } })))
  const tryOn = (message: number, actions: RoutineAction[]): Promise<TriedRoutine> =>
    unwrap(client.POST('/api/routines/try', { body: { message, actions } }))

  return { all, doings, loading: query.isPending, failed: query.error, keep, remove, tryOn }
}

export function useRoutineRuns() {
  const queries = useQueryClient()
  const teaching = useTeaching()
  const { open, drafts } = useDrafts()
  const { answer } = useAttempt(teaching.show)

  /** Does a routine to messages; what it did, or nothing where it was refused or some must be left out first. */
  async function run(routine: Routine, what: Chosen, leaving = false): Promise<RanRoutine | undefined> {
    if (!what.ids.length) return undefined
    halted.value = null
    running.value = { routine: routine.id, done: 0, of: what.ids.length }
    const params = { path: { number: routine.id } }
    const body = { messages: [...what.ids], leaving }
    const ran = await answer(() => unwrap(client.POST('/api/routines/{number}/run', { params, body })))
    running.value = null
    if (ran && !ran.step) halted.value = { routine, what, refused: ran.refused }
    if (!ran?.step) return undefined
    const done = { ids: ran.messages, rows: what.rows.filter((one) => ran.messages.includes(one.id)) }
    teaching.tell(ranWords(routine.name, titleOf(done), ran))
    refreshLists(queries, ['places', 'follow-up', 'tags', 'queues'])
    await queries.invalidateQueries({ queryKey: ['drafts'] })
    return ran
  }

  /** Opens the one draft a routine began. */
  async function look(ran: RanRoutine): Promise<void> {
    const one = drafts.value.find(({ id }) => id === ran.drafts[0])
    if (ran.drafts.length === 1 && one) await open(one)
  }

  function leave(): void {
    halted.value = null
  }

  return { run, look, leave, halted: readonly(halted), running: readonly(running) }
}
