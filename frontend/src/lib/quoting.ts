// What somebody wrote themselves in a text that quotes another.

/** A text without its quoted lines and the line that introduces them. */
export function ownWords(text: string): string {
  return text
    .replace(/^[^\n>]*:\n(?=>)/gm, '')
    .replace(/^>.*$/gm, '')
    .trim()
}
