import type { Bounds } from '../api/client'

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

/** On which side of the Desk a message is taken to belong, and how sure that is, in words: the chance that it is the
 * right side, at the end of its doubt that is nearer to the other. */
export function sideWords(score: number, low: number, high: number, bounds: Bounds): string {
  const here = score >= bounds.desk
  const chance = here ? low : 1 - high
  const sure = chance >= bounds.quite ? 'quite' : chance >= bounds.fairly ? 'fairly' : 'not'
  return `${sure} sure it ${here ? 'is for the Desk' : 'can wait'}`
}
