import { expect, test } from 'vitest'
import { reasonWords, rightWords } from '../../src/lib/topics'

function reason(group: string, texts: string[], heading = 'The sender', amount = 1.25) {
  return { group, heading, texts, amount }
}

test('a reason names what it is about, or what was looked at', () => {
  expect(reasonWords(reason('said', ['visa', 'permit']))).toBe('says visa, permit +1.3')
  expect(reasonWords(reason('address', ['ilse@hall.example']))).toBe('from ilse@hall.example +1.3')
  expect(reasonWords(reason('sender_subject', ['news.example visa', 'a@b.example visa']))).toBe(
    'subject from them visa +1.3',
  )
  expect(reasonWords(reason('headers', [], 'Which headers it carries'))).toBe('which headers it carries +1.3')
  expect(reasonWords(reason('text', [], 'Words of the text'))).toBe('words of the text +1.3')
  expect(reasonWords(reason('said', ['a', 'b', 'c', 'd', 'e']))).toBe('says a, b, c, d +1.3')
})

test('precision is told with what it was measured on', () => {
  expect(rightWords({ right: 0, checked: 0, low: 0, high: 1 })).toMatch(/^not measured yet/)
  expect(rightWords({ right: 9, checked: 10, low: 0.596, high: 0.982 })).toBe(
    '9 of 10 drawn by lot were right: between 60 and 98 %',
  )
})
