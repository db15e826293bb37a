// Words the interface uses for what the server names by key.
import type { Contrary, Evidence, Message, Outcome, Reach, StepEvent } from '../api/client'
import { near } from './time'

export const REACH_WORDS: Record<Reach, string> = {
  message: 'this message only',
  thread: 'this thread from now on',
  learn: 'learn from it',
  address: 'always this sender',
  list: 'always this list',
  domain: 'always this domain',
}

/** How the connection to a mail server may be encrypted. */
export const SECURITIES = [
  { value: 'tls', text: 'TLS from the start' },
  { value: 'starttls', text: 'STARTTLS' },
  { value: 'plain', text: 'none (this machine only)' },
] as const

const WITH_ARTICLE: Record<string, string> = {
  desk: 'on the',
  shelf: 'on the',
  digest: 'in the',
  drain: 'in the',
  archive: 'in the',
  trash: 'in the',
}

/** Where mail stands, as one says it: on the Desk, in the Digest, in Paperwork. */
export function inPlace(name: string, titles: Record<string, string>): string {
  if (name === 'gone') return 'nowhere any more: it was taken out of the Trash for good'
  return `${WITH_ARTICLE[name] ?? 'in'} ${titles[name] ?? name}`
}

/** Whether a message is weighed at all: not what the owner wrote, nor an edition. */
export function isWeighed(message: Message): boolean {
  return message.decided_by !== 'own' && message.decided_by !== 'edition'
}

/** A mailbox as short as it is told from the others: what stands before the @, or the whole address. */
export function accountName(address: string, all: readonly string[]): string {
  const local = address.split('@')[0] ?? address
  return all.filter((one) => one.split('@')[0] === local).length > 1 ? address : local
}

/** How often a source writes. */
export function oftenWords(weekly: number): string {
  if (weekly >= 1.5) return `${Math.round(weekly)} a week`
  if (weekly >= 0.75) return 'once a week'
  return weekly > 0.25 ? 'a few a month' : 'seldom'
}

export function senderName(message: Message): string {
  return message.sender_name || message.sender_address || 'unknown sender'
}

/** The sender as the owner likes to see it. */
export function nameOf(message: Message, shown: 'name' | 'address' | 'both'): string {
  const { sender_name: name, sender_address: address } = message
  if (shown === 'address' && address) return address
  return shown === 'both' && name && address ? `${name} ‹${address}›` : senderName(message)
}

export function subjectOf(subject: string): string {
  return subject || '(no subject)'
}

/** One line of evidence in words. */
export function evidenceWords(line: Evidence, titles: Record<string, string>): string {
  if (line.kind === 'lessons')
    return `The level your ${line.count === 1 ? 'lesson' : `${line.count} lessons`} about other mail set`
  if (line.kind === 'silences') return 'What you looked past and left where it was put'
  if (line.lesson) {
    const where = inPlace(line.lesson.belongs, titles)
    const bond = line.text ? `, ${line.text}` : ''
    return `Your lesson, ${near(line.lesson.at)}${bond}: “${subjectOf(line.lesson.subject)}” belongs ${where}`
  }
  return line.text
}

/** That earlier lessons about such mail say otherwise, or an empty string. */
export function contraryWords(contrary: readonly Contrary[], titles: Record<string, string>): string {
  const parts = contrary.map((one) => {
    const where = inPlace(one.belongs, titles)
    const what = one.count === 1 ? 'one like it' : `${one.count} like it`
    return `${what} ${where} (last ${near(one.latest)})`
  })
  return parts.length ? `Earlier you put ${parts.join(', and ')}.` : ''
}

const MARKED: Record<string, [on: string, off: string]> = {
  seen: ['Marked read', 'Marked unread'],
  flagged: ['Flagged', 'The flag was taken away'],
}

/** What a step did to a message, in a sentence. */
export function eventWords(event: StepEvent, titles: Record<string, string>): string {
  if (event.followed || event.kind === 'returned' || event.kind === 'parked') return `${event.title}.`
  if (event.tag) return event.wanted ? `It was tagged ${event.tag}.` : `The tag ${event.tag} was taken off.`
  if (event.mark) return `${MARKED[event.mark]?.[event.wanted ? 0 : 1] ?? event.title}.`
  if (event.belongs)
    return `You taught that it belongs ${inPlace(event.belongs, titles)}; it stayed where it stood.`
  return `${event.moved} ${inPlace(event.target, titles)}.`
}

const BECAUSE: Record<string, (count: number) => string> = {
  answered: (count) => `: you answered ${count === 1 ? 'one' : count} of theirs`,
  written: (count) => `: you wrote to them ${count === 1 ? 'once' : `${count} times`}`,
}

/** What the next message of a sender or list does, in one sentence; empty where nobody can say whose it is. */
export function promiseWords(promise: Outcome['promise'], titles: Record<string, string>): string {
  if (!promise) return ''
  const { name, listed, place, like, why, count } = promise
  const whose = listed ? `the list ${name}` : name
  if (why === 'vouched') return `All mail from ${whose} stays ${inPlace(place, titles)}: you vouch for them.`
  if (why === 'always') return `From now on all mail from ${whose} goes ${intoPlace(place, titles)}.`
  if (!place)
    return like
      ? `The next like it goes ${intoPlace(like, titles)}; other mail from ${whose} goes by what it says.`
      : `The next like it is asked about; other mail from ${whose} goes by what it says.`
  const because = BECAUSE[why]?.(count)
  if (because) return `The next from ${whose} still goes ${intoPlace(place, titles)}${because}.`
  return `The next from ${whose} goes ${intoPlace(place, titles)}.`
}

/** Where mail goes, as one says it: to the Desk, to Paperwork. */
export function intoPlace(name: string, titles: Record<string, string>): string {
  return `to ${WITH_ARTICLE[name] ? 'the ' : ''}${titles[name] ?? name}`
}

/** A signed number of log-odds, with a real minus sign. */
export function signed(value: number): string {
  const text = Math.abs(value).toFixed(1)
  return value < 0 && text !== '0.0' ? `−${text}` : `+${text}`
}

/** A share as a word of likelihood. */
export function likelihood(share: number): string {
  if (share > 0.85) return 'almost surely'
  if (share > 0.6) return 'probably'
  if (share > 0.35) return 'perhaps'
  return 'hardly'
}
