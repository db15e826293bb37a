import { describe, expect, it } from 'vitest'
import { ACTIONS, actionOf, assigned, keyName, keyOf, keysOf, putAction } from '../../src/lib/actions'

function press(key: string, on?: HTMLElement, held: KeyboardEventInit = {}): KeyboardEvent {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...held })
  ;(on ?? document.body).dispatchEvent(event)
  return event
}

function element(html: string): HTMLElement {
  document.body.innerHTML = html
  return document.body.firstElementChild as HTMLElement
}

describe('the table of actions', () => {
  it('gives no key to two actions', () => {
    const keys = ACTIONS.flatMap((one) => one.keys)
    expect(new Set(keys).size).toBe(keys.length)
  })

  it('names every action once', () => {
    expect(new Set(ACTIONS.map((one) => one.name)).size).toBe(ACTIONS.length)
  })

  it('has five actions that put mail in the band, and none beyond', () => {
    expect([0, 4, 5].map(putAction)).toEqual(['put-0', 'put-4', undefined])
  })
})

describe('an action of a key event', () => {
  it('is found by the typed character', () => {
    expect(actionOf(press('a'), {}, true)?.name).toBe('put-0')
    expect(actionOf(press('ArrowDown', undefined, { shiftKey: true }), {}, true)?.name).toBe('extend-down')
    expect(actionOf(press('A', undefined, { ctrlKey: true }), {}, true)?.name).toBe('select-all')
  })

  it('is none while somebody writes, in a dialog, or with Alt', () => {
    expect(actionOf(press('a', element('<input>')), {}, true)).toBeUndefined()
    expect(actionOf(press('a', element('<div role="dialog"></div>')), {}, true)).toBeUndefined()
    expect(actionOf(press('a', undefined, { altKey: true }), {}, true)).toBeUndefined()
  })

  it('leaves Space and Enter to a button that has the focus', () => {
    expect(actionOf(press(' ', element('<button></button>')), {}, true)).toBeUndefined()
    expect(actionOf(press('a', element('<button></button>')), {}, true)?.name).toBe('put-0')
  })

  it('has no single letters where they are switched off', () => {
    expect(actionOf(press('a'), {}, false)).toBeUndefined()
    expect(actionOf(press('Escape'), {}, false)?.name).toBe('close')
  })
})

describe('keys of the owner’s own', () => {
  it('take the place of the usual ones, and are taken from whoever had them', () => {
    const chosen = assigned({}, 'archive', 'a')
    expect(chosen).toEqual({ archive: ['a'], 'put-0': [] })
    expect(actionOf(press('a'), chosen, true)?.name).toBe('archive')
    expect(
      keysOf(
        ACTIONS.find((one) => one.name === 'put-0')!,
        chosen,
      ),
    ).toEqual([])
  })

  it('are written as a person reads them', () => {
    expect([' ', 'ArrowUp', 'Ctrl+a', 'Shift+ArrowDown'].map(keyName)).toEqual([
      'Space',
      '↑',
      'Ctrl+a',
      'Shift+↓',
    ])
    expect(keyOf(press('J', undefined, { shiftKey: true }))).toBe('J')
  })
})
