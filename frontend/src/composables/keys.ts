// Keys bound to verbs for as long as a scope lives.
import { useEventListener } from '@vueuse/core'
import { actionOf } from '../lib/keys'
import { singleKeys } from './settings'

export type Verbs = Record<string, (() => unknown) | undefined>

export function useKeys(verbs: Verbs): void {
  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    const verb = verbs[actionOf(event, singleKeys.value)]
    if (!verb) return
    event.preventDefault()
    verb()
  })
}
