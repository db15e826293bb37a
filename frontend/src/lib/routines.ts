// Routines: the key each is done by, and what is said of one that could not be done to all.
import type { RanRoutine, Routine } from '../api/client'
import { ACTIONS, keyName, keysOf, type Chosen } from './actions'

/** The routine a key does; none where an action has it. */
export function routineOf(key: string, routines: readonly Routine[], chosen: Chosen): Routine | undefined {
  if (!key || takenBy(key, chosen)) return undefined
  return routines.find((one) => one.key === key)
}

/** What a key does already, in words; empty where it is free. */
export function takenBy(key: string, chosen: Chosen): string {
  return ACTIONS.find((one) => keysOf(one, chosen).includes(key))?.title ?? ''
}

/** Why a key cannot be a routine's; empty where it can. */
export function keyProblem(key: string, chosen: Chosen): string {
  const action = takenBy(key, chosen)
  return action ? `${keyName(key)} does “${action}” already. Choose another, or give that another key.` : ''
}

/** Whether a routine moves its mail away from where it stands. */
export function placesMail(routine: Routine, placing: readonly string[]): boolean {
  return routine.actions.some((one) => placing.includes(one.verb))
}

/** What a routine did, and to which messages it could not be done. */
export function ranWords(name: string, title: string, ran: RanRoutine): string {
  const left = ran.refused.length
  const drafts = ran.drafts.length
  const begun = drafts > 1 ? ` ${drafts} drafts wait in Outgoing.` : ''
  const rest = left
    ? ` ${left} ${left === 1 ? 'is' : 'are'} left as ${left === 1 ? 'it was' : 'they were'}.`
    : ''
  return `“${name}” is done to ${title}.${begun}${rest}`
}
