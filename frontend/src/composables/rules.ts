// Rules of the owner's: which there are, what one would do, and how far a run is.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, readonly, ref, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { client, unwrap, type Rule, type RuleGiven, type RulePreview, type Rules } from '../api/client'
import { moved } from '../lib/order'
import { sent } from '../lib/rules'
import { useAttempt } from './attempt'
import { useTeaching } from './teaching'

const KEY = ['rules']
/** How far the run of a rule on what is here is: its id, and of how many messages. */
const running = ref<{ rule: number; done: number; of: number } | null>(null)

/** The last run that ended: of which rule, and its step, 0 where nothing had to change. */
const ended = ref<{ rule: number; step: number } | null>(null)

/** Notes what the server tells of a run. */
export function noteRun(told: { rule: number; done: number; of: number; step: number }): void {
  running.value = told.done < told.of ? told : null
  if (told.done >= told.of) ended.value = told
}

export function useRules() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: (): Promise<Rules> => unwrap(client.GET('/api/rules')) })

  async function loaded<T>(work: Promise<T>): Promise<T> {
    const done = await work
    await queries.invalidateQueries({ queryKey: KEY })
    return done
  }

  /** Keeps a rule, a new one where `number` is 0. Throws when it is refused. */
  function keep(number: number, rule: RuleGiven): Promise<Rule> {
    const body = sent(rule)
    const params = { path: { number } }
    return loaded(
      unwrap(
        number ? client.PUT('/api/rules/{number}', { params, body }) : client.POST('/api/rules', { body }),
      ),
    )
  }

  function enable(rule: Rule, enabled: boolean): Promise<Rule> {
    const params = { path: { number: rule.id } }
    return loaded(
      unwrap(client.PUT('/api/rules/{number}/enabled', { params, body: { enabled, confirmed: false } })),
    )
  }

  function remove(rule: Rule): Promise<unknown> {
    return loaded(unwrap(client.DELETE('/api/rules/{number}', { params: { path: { number: rule.id } } })))
  }

  /** Moves a rule to another place in the order, at once; it goes back when that is refused. */
  async function moveTo(rule: Rule, to: number): Promise<void> {
    const before = queries.getQueryData<Rules>(KEY)
    if (!before) return
    const from = before.rules.findIndex((one) => one.id === rule.id)
    const order = moved(before.rules, from, Math.min(before.rules.length - 1, Math.max(0, to)))
    queries.setQueryData<Rules>(KEY, { ...before, rules: order })
    try {
      await unwrap(client.POST('/api/rules/order', { body: { rules: order.map((one) => one.id) } }))
    } catch (error) {
      queries.setQueryData(KEY, before)
      throw error
    }
  }

  async function run(rule: Rule): Promise<void> {
    await unwrap(client.POST('/api/rules/{number}/run', { params: { path: { number: rule.id } } }))
    running.value = { rule: rule.id, done: 0, of: 1 }
  }

  return {
    all: computed(() => query.data.value?.rules ?? []),
    doings: computed(() => query.data.value?.doings ?? []),
    conflicts: computed(() => query.data.value?.conflicts ?? []),
    loading: query.isPending,
    failed: query.error,
    running: readonly(running),
    ended: readonly(ended),
    keep,
    enable,
    remove,
    moveTo,
    run,
  }
}

/** What a rule would do, a little behind the writing: the newest first, then all of it. */
export function usePreview(rule: Readonly<Ref<RuleGiven>>) {
  const settled = refDebounced(
    computed(() => JSON.stringify({ ...sent(rule.value), name: 'preview', confirmed: false })),
    250,
  )
  const wanted = computed(() => (JSON.parse(settled.value) as RuleGiven).line.trim() !== '')
  const ask = (quick: boolean) =>
    useQuery({
      queryKey: computed(() => ['preview', quick, settled.value] as const),
      queryFn: () => {
        const body = JSON.parse(settled.value) as RuleGiven
        return unwrap(client.POST('/api/rules/preview', { params: { query: { quick } }, body }))
      },
      enabled: wanted,
      retry: false,
    })
  const quick = ask(true)
  const whole = ask(false)
  return computed<RulePreview | undefined>(() =>
    wanted.value ? (whole.data.value ?? quick.data.value) : undefined,
  )
}

/** Begins a rule: about messages, or about what a line finds. */
export function useRuleMaking() {
  const router = useRouter()
  const { show } = useTeaching()
  const { answer } = useAttempt(show)

  function begin(name: string, line: string): void {
    void router.push({ name: 'rules', query: { rule: 'new', name, line } })
  }

  async function about(messages: readonly number[]): Promise<void> {
    if (!messages.length) return
    const body = { messages: [...messages] }
    const told = await answer(() => unwrap(client.POST('/api/rules/proposed', { body })))
    if (told) begin(told.name, told.line)
  }

  return { begin, about }
}
