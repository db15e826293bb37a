// Placeholders that are left in a text, and the short name of a phrase before the cursor.
const HOLE = /\{\s*(?:first name|name|address|subject|date|choose|ask|phrase)\b[^{}\n]*\}/gi
const SHORT = /[\p{L}\p{N}_-]{1,40}$/u

/** The placeholders left in the owner's own lines, each once, in order: what is quoted is somebody else's. */
export function holesIn(text: string): string[] {
  const own = text
    .split('\n')
    .filter((line) => !line.startsWith('>'))
    .join('\n')
  return [...new Set(own.match(HOLE) ?? [])]
}

/** What can be chosen for a placeholder; nothing where it is written. */
export function optionsOf(hole: string): string[] {
  const said = /^\{\s*choose\s+([^}]*)\}$/i.exec(hole)?.[1]
  return (
    said
      ?.split('|')
      .map((one) => one.trim())
      .filter(Boolean) ?? []
  )
}

/** What a placeholder asks, in words. */
export function askOf(hole: string): string {
  const inner = hole.slice(1, -1).trim().replace(/\s+/g, ' ')
  return inner.replace(/^(?:ask|choose)\s+/i, '')
}

/** The text with a placeholder filled in wherever it stands. */
export function filledIn(text: string, hole: string, value: string): string {
  return text.split(hole).join(value)
}

/** The word that ends at the cursor, where it may be the short name of a phrase. */
export function shortBefore(text: string, cursor: number): string {
  return SHORT.exec(text.slice(0, cursor))?.[0] ?? ''
}
