// A sentence found again in the text it stands in, however its lines are broken there.

/** The stretch of a tree that reads as some words, white space and breaks aside; the first such, or none. */
export function rangeOf(root: Node, words: string): Range | undefined {
  const wanted = words.replace(/\s+/g, '')
  const document = root.ownerDocument
  if (!wanted || !document) return undefined
  const nodes: Text[] = []
  const starts: number[] = []
  let plain = ''
  const walker = document.createTreeWalker(root, 4)
  while (walker.nextNode()) {
    const node = walker.currentNode as Text
    nodes.push(node)
    starts.push(plain.length)
    plain += node.data.replace(/\s+/g, '')
  }
  const at = plain.indexOf(wanted)
  if (at < 0) return undefined
  const range = document.createRange()
  range.setStart(...placeOf(nodes, starts, at))
  const [last, offset] = placeOf(nodes, starts, at + wanted.length - 1)
  range.setEnd(last, offset + 1)
  return range
}

/** Where a character stands, counted without white space: its node, and how far into it. */
function placeOf(nodes: readonly Text[], starts: readonly number[], at: number): [Text, number] {
  let number = starts.length - 1
  while (number > 0 && (starts[number] ?? 0) > at) number--
  const node = nodes[number]
  if (!node) throw new Error('There is no text.')
  let left = at - (starts[number] ?? 0)
  for (let offset = 0; offset < node.data.length; offset++) {
    if (/\s/.test(node.data.charAt(offset))) continue
    if (left-- === 0) return [node, offset]
  }
  return [node, node.data.length]
}

/** Brings some words of a tree into sight and marks them; whether they stand there. */
export function seekIn(root: Node, words: string): boolean {
  const range = rangeOf(root, words)
  const view = root.ownerDocument?.defaultView
  if (!range || !view) return false
  const selection = view.getSelection()
  selection?.removeAllRanges()
  selection?.addRange(range)
  range.startContainer.parentElement?.scrollIntoView({ block: 'center' })
  return true
}
