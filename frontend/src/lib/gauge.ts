// The gauge's scale: importance spaced in log-odds, so that the crowded low end opens up.
const EDGE = 0.004
const HALF = Math.log((1 - EDGE) / EDGE)

/** Where an importance (0 to 1) lies on the track, 0 to 1 from the left. */
export function position(importance: number): number {
  const p = Math.min(1 - EDGE, Math.max(EDGE, importance))
  return (Math.log(p / (1 - p)) + HALF) / (2 * HALF)
}

/** A share of the track as a percentage for styles. */
export function percent(share: number): string {
  return `${(100 * share).toFixed(2)}%`
}

/** Importance as the whole number shown, 1 to 99: nothing is certain. */
export function shown(importance: number): number {
  return Math.min(99, Math.max(1, Math.round(100 * importance)))
}

/** How far the band of doubt reaches to either side, as a whole number. */
export function doubt(low: number, high: number): number {
  return Math.max(1, Math.round((100 * (high - low)) / 2))
}

/** How sure the model is, in words. */
export function certaintyWords(low: number, high: number): string {
  const spread = high - low
  if (spread < 0.12) return 'quite sure'
  if (spread < 0.3) return 'fairly sure'
  return 'not sure'
}
