import { describe, expect, it } from 'vitest'
import type { StepEvent } from '../../src/api/client'
import {
  contraryWords,
  eventWords,
  evidenceWords,
  likelihood,
  nameOf,
  REACH_WORDS,
  senderName,
  accountName,
  signed,
  subjectOf,
} from '../../src/lib/words'
import { evidence, message } from '../made'

const TITLES = { desk: 'Desk', shelf: 'Shelf', digest: 'Digest', archive: 'Archive' }
const event = (fields: Partial<StepEvent>) =>
  ({
    step: 1,
    at: 0,
    kind: '',
    title: '',
    undone_at: null,
    origin: '',
    target: '',
    mark: '',
    wanted: false,
    belongs: '',
    ...fields,
  }) as StepEvent

describe('mailboxes', () => {
  it('are named as short as they are told apart', () => {
    const all = ['maren@quillmark.example', 'tours@quillmark.example', 'maren@hall.example']
    expect(accountName('tours@quillmark.example', all)).toBe('tours')
    expect(accountName('maren@hall.example', all)).toBe('maren@hall.example')
    expect(accountName('gone@hall.example', [])).toBe('gone')
  })
})

describe('names and subjects', () => {
  it('fall back to what there is', () => {
    expect(senderName(message(1, { sender_name: '', sender_address: '' }))).toBe('unknown sender')
    expect(senderName(message(1, { sender_name: '' }))).toBe('ilse@hall.example')
    expect(subjectOf('')).toBe('(no subject)')
  })

  it('are shown as the owner likes', () => {
    const one = message(1)
    expect((['name', 'address', 'both'] as const).map((how) => nameOf(one, how))).toEqual([
      'Ilse Vann',
      'ilse@hall.example',
      'Ilse Vann ‹ilse@hall.example›',
    ])
  })
})

describe('why it stands where it stands', () => {
  it('names a lesson by when, what and where', () => {
    const lesson = { at: 1_760_000_000, subject: 'Risers', belongs: 'shelf' }
    const line = evidence({ kind: 'lesson', lesson, text: 'from the same sender' } as never)
    expect(evidenceWords(line, TITLES)).toMatch(/, from the same sender: “Risers” belongs on the Shelf$/)
    expect(evidenceWords(evidence({ kind: 'lessons', count: 1 }), TITLES)).toBe(
      'The level your lesson about other mail set',
    )
    expect(evidenceWords(evidence({ text: 'you answered Ilse' }), TITLES)).toBe('you answered Ilse')
    expect(evidenceWords(evidence({ kind: 'silences' }), TITLES)).toMatch(/looked past/)
  })

  it('says where the owner decided otherwise', () => {
    expect(contraryWords([{ belongs: 'digest', count: 2, latest: 1_760_000_000 }], TITLES)).toMatch(
      /^Earlier you put 2 like it in the Digest/,
    )
    expect(contraryWords([], TITLES)).toBe('')
  })
})

describe('what happened to a message', () => {
  it('is a sentence for moves and for marks', () => {
    expect(eventWords(event({ moved: 'You put it', target: 'shelf' }), TITLES)).toBe(
      'You put it on the Shelf.',
    )
    expect(eventWords(event({ moved: 'You filed it', target: 'archive' }), TITLES)).toBe(
      'You filed it in the Archive.',
    )
    expect(eventWords(event({ kind: 'marked', mark: 'seen', wanted: false }), TITLES)).toBe('Marked unread.')
    expect(eventWords(event({ kind: 'verdict', belongs: 'shelf' }), TITLES)).toBe(
      'You taught that it belongs on the Shelf; it stayed where it stood.',
    )
  })
})

describe('numbers in words', () => {
  it('carry a real minus sign, but not before a zero', () => {
    expect([1.25, -0.5, -0.01].map(signed)).toEqual(['+1.3', '−0.5', '+0.0'])
  })

  it('say how likely', () => {
    expect([0.9, 0.7, 0.5, 0.1].map(likelihood)).toEqual(['almost surely', 'probably', 'perhaps', 'hardly'])
  })

  it('know every reach', () => {
    expect(Object.keys(REACH_WORDS)).toHaveLength(6)
  })
})
