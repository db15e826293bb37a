import { expect, it } from 'vitest'
import { latelyWords } from '../../src/lib/lately'

const nothing = { came: 0, places: [], asked: 0, lessons: 0, followed: 0 }

it('says what came and where it stands, the fullest place first', () => {
  const places = [
    { place: 'desk', messages: 1 },
    { place: 'digest', messages: 4 },
  ]
  const told = latelyWords(
    { came: 5, places, asked: 1, lessons: 2, followed: 0 },
    { desk: 'Desk', digest: 'Digest' },
  )
  expect(told).toEqual(['5 messages came: Digest 4, Desk 1.', '1 waits for your call.', '2 lessons learned.'])
})

it('says that nothing happened', () => {
  expect(latelyWords(nothing, {})).toEqual(['Nothing came, and nothing was decided.'])
  expect(latelyWords({ ...nothing, followed: 1 }, {})).toEqual(['1 message followed as similar mail.'])
})
