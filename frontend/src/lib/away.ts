// The away notice as it is written, and what is said of it.
import type { AwayGiven, AwayNotice, CircleGiven } from '../api/client'

/** What languages are called that are told apart. */
export const LANGUAGES: Record<string, string> = {
  '': 'every other language',
  en: 'English',
  de: 'German',
  fr: 'French',
  es: 'Spanish',
}

export const WHO: Record<CircleGiven['who'], string> = {
  line: 'whom a search line finds',
  written: 'people I ever wrote to',
  all: 'everybody',
}

/** What is written first: colleagues and people written to are told, everybody else is not. */
export function emptyAway(): AwayGiven {
  return {
    on: false,
    begins: '',
    ends: '',
    days: 7,
    circles: [
      { name: 'People I know', who: 'written', line: '', texts: { '': '' } },
      { name: 'Everybody else', who: 'all', line: '', texts: {} },
    ],
  }
}

/** A kept notice as the form takes it; its times stand until others are typed. */
export function givenAway(kept: AwayNotice): AwayGiven {
  if (!kept.circles.length) return emptyAway()
  const circles = kept.circles.map(({ name, who, line, texts }) => ({ name, who, line, texts: { ...texts } }))
  return { on: kept.on, begins: '', ends: '', days: kept.days, circles }
}

/** Languages a circle has no text in yet. */
export function languagesLeft(circle: CircleGiven, languages: readonly string[]): string[] {
  return languages.filter((one) => !(one in circle.texts))
}

/** Whether the notice is sent now, will be, or is not. */
export function standing(kept: AwayNotice): string {
  if (kept.holds) return `Sent until ${kept.ends_shown}`
  return kept.on ? `Sent from ${kept.begins_shown} until ${kept.ends_shown}` : 'Not sent'
}
