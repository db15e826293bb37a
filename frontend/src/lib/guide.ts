// The guide as the page shows it: its parts, by the heading of each.
import MarkdownIt from 'markdown-it'

export interface Part {
  heading: string
  /** What stands below the heading, as HTML. */
  html: string
}

const markdown = new MarkdownIt({ html: false, linkify: false })
// What leads out of the guide is not at hand here: its words stay.
markdown.renderer.rules.link_open = () => ''
markdown.renderer.rules.link_close = () => ''

/** The parts of a guide, in their order. */
export function partsOf(text: string): Part[] {
  return text
    .split(/^## /m)
    .slice(1)
    .map((part) => {
      const end = part.indexOf('\n')
      return { heading: part.slice(0, end).trim(), html: markdown.render(part.slice(end)) }
    })
}
