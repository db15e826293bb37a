// What happened since the owner was last here, in sentences.
export interface Happened {
  came: number
  places: readonly { place: string; messages: number }[]
  asked: number
  lessons: number
  followed: number
}

const several = (count: number, one: string, many: string) => `${count} ${count === 1 ? one : many}`

/** The sentences, most telling first; one that says so where nothing happened. */
export function latelyWords(found: Happened, titles: Record<string, string>): string[] {
  const told: string[] = []
  if (found.came) {
    const where = [...found.places]
      .sort((a, b) => b.messages - a.messages)
      .map((one) => `${titles[one.place] ?? one.place} ${one.messages}`)
    told.push(`${several(found.came, 'message', 'messages')} came: ${where.join(', ')}.`)
  }
  if (found.asked) told.push(`${several(found.asked, 'waits', 'wait')} for your call.`)
  if (found.lessons) told.push(`${several(found.lessons, 'lesson', 'lessons')} learned.`)
  if (found.followed) told.push(`${several(found.followed, 'message', 'messages')} followed as similar mail.`)
  return told.length ? told : ['Nothing came, and nothing was decided.']
}
