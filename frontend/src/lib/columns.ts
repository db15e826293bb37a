// Rows of a table in the order of one of its columns.

/** What a column is called, and what rows are ordered by in it: small values first. */
export interface OrderedBy<Row> {
  readonly name: string
  readonly title: string
  readonly of: (row: Row) => string | number
}

/** In the order of a column, or against it; equals as `tie` puts them, whichever way it goes. */
export function ordered<Row>(
  rows: readonly Row[],
  column: OrderedBy<Row>,
  against: boolean,
  tie: (a: Row, b: Row) => number,
): Row[] {
  const sign = against ? -1 : 1
  return [...rows].sort((a, b) => {
    const [x, y] = [column.of(a), column.of(b)]
    if (x === y) return tie(a, b)
    return (x < y ? -1 : 1) * sign
  })
}
