// Writing a search line out of the fields of a form.
export interface Condition {
  operator: string
  value: string
}

const QUOTED = /^".*"$/

function written({ operator, value }: Condition): string {
  const clean = value.trim().replaceAll('"', operator ? '' : '"')
  if (!clean) return ''
  if (!operator) return clean
  return `${operator}:${/[\s()]/.test(clean) && !QUOTED.test(clean) ? `"${clean}"` : clean}`
}

/** The line that says all the conditions. */
export function lineOf(conditions: readonly Condition[]): string {
  return conditions.map(written).filter(Boolean).join(' ')
}

/** The values of a form's fields out of the conditions of a line; several of one operator stay in the bare words. */
export function fieldsOf(conditions: readonly Condition[]): Record<string, string> {
  const fields: Record<string, string> = {}
  const rest: string[] = []
  for (const one of conditions) {
    if (one.operator && !(one.operator in fields)) fields[one.operator] = one.value
    else rest.push(written(one))
  }
  return { ...fields, '': rest.join(' ') }
}
