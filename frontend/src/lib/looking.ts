// Which messages of a list were looked past: a row counts once it stood in sight for some seconds and the owner then went
// on to what stands below it, or opened it and went on.

/** Seconds a row must have stood in sight. */
export const ENOUGH = 3

export class Looking {
  private readonly seconds = new Map<number, number>()
  private readonly reported = new Set<number>()
  private open = 0

  /**
   * One second has passed with these rows in sight, of the list in its order; `first` and `last` are positions in it,
   * `open` the message that is open, or 0. Returns the messages that were looked past by now, each once.
   */
  second(list: readonly number[], first: number, last: number, open: number): number[] {
    for (const id of list.slice(first, last + 1)) this.seconds.set(id, (this.seconds.get(id) ?? 0) + 1)
    const at = list.indexOf(open)
    const above = list.slice(0, Math.max(first, at))
    const left = this.open && this.open !== open && list.includes(this.open) ? [this.open] : []
    this.open = open
    const past = [...new Set([...above, ...left])].filter(
      (id) => id !== open && !this.reported.has(id) && (this.seconds.get(id) ?? 0) >= ENOUGH,
    )
    past.forEach((id) => this.reported.add(id))
    return past
  }

  /** What was returned did not get where it should: it is returned again. */
  again(ids: readonly number[]): void {
    ids.forEach((id) => this.reported.delete(id))
  }
}
