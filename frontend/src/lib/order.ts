// Things in an order of the owner's.

/** A list with the one at a place moved to another; as it is where either is none. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
  const next = [...list]
  if (from < 0 || from >= next.length || to < 0 || to >= next.length) return next
  next.splice(to, 0, ...next.splice(from, 1))
  return next
}
