// The owner's addresses in words.
import type { Address, Purpose } from '../api/client'

/** What an address can be for, in the order it is offered. */
export const PURPOSES: readonly { value: Purpose; title: string; short: string; about: string }[] = [
  { value: '', title: 'Nothing said', short: '', about: 'Its mail is weighed like any other.' },
  { value: 'people', title: 'For people', short: 'for people', about: 'Its mail counts for more.' },
  {
    value: 'shops',
    title: 'For shops and newsletters',
    short: 'for shops',
    about: 'Its mail counts for less.',
  },
  { value: 'given up', title: 'Given up', short: 'given up', about: 'Its mail is most likely unwanted.' },
]

/** What an address is for, in few words; empty where nothing was said. */
export function purposeWords(purpose: Purpose): string {
  return PURPOSES.find((one) => one.value === purpose)?.short ?? purpose
}

/** Whether an address was given to one party alone: by a note, or by a tag behind a plus. */
export function isGiven(one: Address): boolean {
  return Boolean(one.given_to) || (one.address.split('@')[0] ?? '').includes('+')
}

/** The part of an address that tells it from the others of its domain, and the rest. */
export function partsOf(address: string): [string, string] {
  const at = address.lastIndexOf('@')
  return at < 0 ? [address, ''] : [address.slice(0, at), address.slice(at)]
}

/** The line that finds the mail of an address. */
export function lineOf(address: string): string {
  return `to:"${address}"`
}
