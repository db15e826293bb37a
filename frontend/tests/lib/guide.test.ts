import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { partsOf } from '../../src/lib/guide'
import { PAGES } from '../../src/pages'

const parts = partsOf(readFileSync('../docs/guide.md', 'utf-8'))

describe('the guide beside the page', () => {
  it('has a part for every page', () => {
    const headings = parts.map((one) => one.heading)
    expect(headings.length).toBeGreaterThan(20)
    for (const page of PAGES) expect(headings, page.name).toContain(page.guide)
  })

  it('shows tables and lists, and leads nowhere else', () => {
    const [part] = partsOf('# Guide\n\n## One\n\n| a | b |\n|---|---|\n| *c* | [d](x.md) |\n\n<b>raw</b>\n')
    expect(part!.heading).toBe('One')
    expect(part!.html).toContain('<td><em>c</em></td>')
    expect(part!.html).toContain('<td>d</td>')
    expect(part!.html).toContain('&lt;b&gt;')
  })
})
