import { describe, expect, it } from 'vitest'
import { rangeOf, seekIn } from '../../src/lib/seek'

function page(html: string): HTMLElement {
  document.body.innerHTML = html
  document.body.querySelectorAll('*').forEach((one) => (one.scrollIntoView = () => undefined))
  return document.body
}

describe('a sentence sought in its message', () => {
  it('is found across lines, marks and blanks', () => {
    const root = page('<p>Dear all,</p><p>which  gate\n shall <b>we use</b>? Bye.</p>')
    expect(rangeOf(root, 'which gate shall we use?')?.toString()).toBe('which  gate\n shall we use?')
    expect(rangeOf(root, 'Bye.')?.toString()).toBe('Bye.')
  })
  it('is not found where it does not stand', () => {
    const root = page('<p>Dear all,</p>')
    expect(rangeOf(root, 'Dear nobody,')).toBeUndefined()
    expect(rangeOf(root, ' ')).toBeUndefined()
    expect(rangeOf(page(''), 'Dear')).toBeUndefined()
    expect(seekIn(root, 'nobody')).toBe(false)
  })
  it('is marked', () => {
    expect(seekIn(page('<p>One. Two. One.</p>'), 'Two.')).toBe(true)
    expect(window.getSelection()?.toString()).toBe('Two.')
  })
})
