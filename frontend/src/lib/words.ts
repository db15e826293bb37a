// Words the interface uses for what the server names by key.
import type { Contrary, Evidence, Message, Reach } from '../api/client'
import { near } from './time'

export const REACH_WORDS: Record<Reach, string> = {
  message: 'this message only',
  thread: 'this thread from now on',
  learn: 'learn from it',
  address: 'always this sender',
  list: 'always this list',
  domain: 'always this domain',
}

const DECIDED: Record<string, string> = {
  verdict: 'You put it here.',
  thread: 'You decided on its thread.',
  address: 'You decided on its sender for always.',
  list: 'You decided on its list for always.',
  domain: 'You decided on its domain for always.',
  kin: 'It followed a lesson as kin.',
  vouched: 'You vouch for its sender.',
  unreadable: 'It could not be read, so it was kept whole and stays where you will see it.',
  history: 'You had dealt with it before it came here.',
  own: 'You sent it.',
  filed: 'You filed it here.',
}

/** Why a message stands where it stands, when it is not the model's doing. */
export function decidedWords(message: Message): string {
  return DECIDED[message.decided_by] ?? ''
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
    return `${line.count} other ${line.count === 1 ? 'lesson' : 'lessons'} of yours`
  if (line.lesson) {
    const where = titles[line.lesson.belongs] ?? line.lesson.belongs
    return `Your lesson, ${near(line.lesson.at)}: “${subjectOf(line.lesson.subject)}” belongs ${where === 'Desk' || where === 'Shelf' ? 'on' : 'in'} the ${where}`
  }
  return line.text
}

/** That earlier lessons about such mail say otherwise, or an empty string. */
export function contraryWords(contrary: readonly Contrary[], titles: Record<string, string>): string {
  const parts = contrary.map((one) => {
    const where = titles[one.belongs] ?? one.belongs
    const what = one.count === 1 ? 'one like it' : `${one.count} like it`
    return `${what} in ${where} (last ${near(one.latest)})`
  })
  return parts.length ? `Earlier you put ${parts.join(', and ')}.` : ''
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
