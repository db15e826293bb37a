// Lines of evidence in the order they tell most: what says something of this message before what only adds up.
import type { Evidence } from '../api/client'

/** Whether a line says no more than that the lines add up. */
export function isVague(line: Evidence): boolean {
  return ['lessons', 'silences'].includes(line.kind) || (line.kind === 'prior' && line.text === line.group)
}

/** The lines that tell something first, in their order, then the vague ones. */
export function tellingFirst(lines: readonly Evidence[]): Evidence[] {
  return [...lines.filter((line) => !isVague(line)), ...lines.filter(isVague)]
}

/** The line that weighs most of those that tell something; undefined where none does. */
export function strongest(lines: readonly Evidence[]): Evidence | undefined {
  return lines
    .filter((line) => !isVague(line))
    .reduce<Evidence | undefined>(
      (most, line) => (most && Math.abs(most.value) >= Math.abs(line.value) ? most : line),
      undefined,
    )
}
