// Who does what: views give their verbs while they live; keys and the command line call them by name.
import { useEventListener } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowReactive } from 'vue'
import { ACTIONS, actionOf, keyName, keysOf, pressed, type Action, type ActionName } from '../lib/actions'
import { chosenKeys, singleKeys } from './settings'

export type Verb = (argument?: string) => unknown
/** What can be called by name: every action, and dropping what is dragged, in a place or on a tag. */
export type VerbName = ActionName | 'drop' | 'drop-tag'
export type Verbs = Partial<Record<VerbName, Verb>>

const given = shallowReactive<Verbs[]>([])
/** The action the command line is open for: one that needs something, or none yet. */
export const asking = ref<{ action?: Action } | null>(null)

/** Gives verbs by action name for as long as the calling scope lives; the latest given come first. */
export function useVerbs(verbs: Verbs): void {
  given.unshift(verbs)
  onScopeDispose(() => void given.splice(given.indexOf(verbs), 1))
}

function verbOf(name: VerbName): Verb | undefined {
  return given.find((verbs) => verbs[name])?.[name]
}

/** Does an action; without what it needs, the command line asks for it. Tells whether anybody could. */
export function run(name: VerbName, argument?: string): boolean {
  const verb = verbOf(name)
  if (!verb) return false
  const action = ACTIONS.find((one) => one.name === name)
  if (action?.needs && argument === undefined) asking.value = { action }
  else verb(argument)
  return true
}

/** The actions that somebody can do now. */
export const possible = computed(() => ACTIONS.filter((action) => verbOf(action.name)))

/** The first key of an action as it is written, or an empty string. */
export function keyFor(name: ActionName | undefined): string {
  const action = ACTIONS.find((one) => one.name === name)
  const key = action && keysOf(action, chosenKeys.value)[0]
  return key && (singleKeys.value || key.length > 1) ? keyName(key) : ''
}

/** Listens to keys as long as the calling scope lives; `routine` knows which routine a key does. */
export function useKeyboard(routine: (key: string) => number | undefined): void {
  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    const action = actionOf(event, chosenKeys.value, singleKeys.value)
    const number = action ? undefined : routine(pressed(event, singleKeys.value))
    if (action ? run(action.name) : number && run('routine', String(number))) event.preventDefault()
  })
}
