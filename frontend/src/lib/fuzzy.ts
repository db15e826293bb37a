// Finding words by their letters, in order but not side by side; beginnings of words count more.

/** How well the letters match the text: higher is better, 0 is not at all. */
export function match(letters: string, text: string): number {
  const wanted = letters.toLowerCase().replace(/\s+/g, '')
  const within = text.toLowerCase()
  if (!wanted) return 1
  const phrase = letters.toLowerCase().trim()
  const whole = within.indexOf(phrase)
  const begun = ` ${within}`.indexOf(` ${phrase}`)
  if (begun >= 0) return 2000 - begun - within.length / 100
  if (whole >= 0) return 1000 - whole - within.length / 100
  let score = 0
  let at = -1
  for (const letter of wanted) {
    const next = within.indexOf(letter, at + 1)
    if (next < 0) return 0
    const begins = next === 0 || within[next - 1] === ' '
    score += (begins ? 8 : 1) + (next === at + 1 ? 4 : 0)
    at = next
  }
  return Math.max(0.01, score - within.length / 100)
}

/** Those that match, the best first; those that match alike stay in their order. */
export function matching<T>(letters: string, all: readonly T[], text: (one: T) => string): T[] {
  return all
    .map((one, index) => ({ one, index, score: match(letters, text(one)) }))
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score || a.index - b.index)
    .map(({ one }) => one)
}
