import { expect, test } from 'vitest'
import { ownWords } from '../../src/lib/quoting'

test('what is quoted is not what was written', () => {
  expect(ownWords('')).toBe('')
  expect(ownWords('\n\nIlse wrote on Friday:\n> Shall we?\n>> No\n')).toBe('')
  expect(ownWords('Yes.\n\nIlse wrote on Friday:\n> Shall we?')).toBe('Yes.')
  expect(ownWords('The list:\n- a > b')).toBe('The list:\n- a > b')
})
